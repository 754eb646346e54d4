"""What the engine of a dialect may refuse, and the stand-in would take."""
