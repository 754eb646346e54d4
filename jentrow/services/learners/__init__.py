"""A learner's own pages: reading, running, handing in, what came of it."""
