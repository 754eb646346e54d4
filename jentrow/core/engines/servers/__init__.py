"""What engines that are servers have in common."""
