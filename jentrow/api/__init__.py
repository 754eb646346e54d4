"""The web: FastAPI over the use cases. HTTP is known here and nowhere else."""
