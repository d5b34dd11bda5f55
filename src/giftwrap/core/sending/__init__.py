"""Packs and sets for use elsewhere: models with their materials, and solids for printing a sample."""
