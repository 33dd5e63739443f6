"""Small rounding of sharp convex edges: on meshes by a bevel; exact bodies round themselves before they are meshed."""
