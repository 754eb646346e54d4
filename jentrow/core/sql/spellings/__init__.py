"""How dialects and engines spell what they have in common, and what each lacks."""
