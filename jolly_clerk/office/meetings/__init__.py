"""Meetings before which cases go: planned, their agendas, their minutes and papers."""
