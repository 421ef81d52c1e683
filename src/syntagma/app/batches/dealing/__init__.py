"""Dealing with generation services: who may be spoken to, money set aside, requests sent, results collected, doubts settled."""
