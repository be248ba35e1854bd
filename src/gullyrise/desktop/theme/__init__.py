"""Palette, typeface and the style made of them."""
