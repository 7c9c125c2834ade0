"""Lengths as typed and told, estimates with their uncertainty, spread, and the verdict."""
