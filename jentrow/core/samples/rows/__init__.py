"""A dataset's rows: pages of them, changes in place, what they show and what they lack."""
