"""Edits of a scene, each with its exact inverse, and their register."""
