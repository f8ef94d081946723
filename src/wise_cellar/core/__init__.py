"""Computation only: documents, laws of physics, packs and flights. No toolkit, no user's files, no clock."""
