"""Drawings to be printed and used at full size, as SVG, DXF and PDF."""
