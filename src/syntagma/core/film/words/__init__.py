"""The words of shots: who is in them, what they do, how a clip becomes a formula with its fills."""
