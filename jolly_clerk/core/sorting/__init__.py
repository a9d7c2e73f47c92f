"""Sorting what arrives in a pile: where documents begin in a long scan, and where each belongs, with reasons."""
