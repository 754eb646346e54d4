"""New datasets: what files could become, and the process that makes them."""
