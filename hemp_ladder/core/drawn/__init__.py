"""What is drawn in the plane, and how it becomes solid."""
