"""What a person does: plans from a scene to an ``Edit``, for the studio, the command line and
scripts alike.
"""
