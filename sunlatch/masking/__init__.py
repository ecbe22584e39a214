"""Masks: what latches read, what is found in it, and how much they hold of each px."""
