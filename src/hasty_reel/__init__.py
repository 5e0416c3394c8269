"""Hasty Reel plans sequence renders: samples per frame, flicker, and an honest finishing time."""

__version__ = "0.1.0"
