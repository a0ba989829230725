"""What the studio says, in the language of who reads it: templates and scripts by the marks of
Django's translations, sentences of Python by what they say (``said.py``).
"""
