"""Small drawn things: stamps, the bearing dial, key cards, curves."""
