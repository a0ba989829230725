"""Coaster's web studio."""
