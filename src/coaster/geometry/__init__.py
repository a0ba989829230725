"""Cubic Beziers, paths, arc length and affine maps."""
