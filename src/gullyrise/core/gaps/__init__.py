"""Gaps between bodies: pieces that face each other, the least gap, by face, and rounds that fit one into the other."""
