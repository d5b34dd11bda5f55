"""What grows without end is cut back by rules, every night."""
