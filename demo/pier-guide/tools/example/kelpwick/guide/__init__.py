"""Checks the pier guide."""
