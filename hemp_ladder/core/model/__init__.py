"""What sources are, in one shape for every format: tree, parts, bodies, materials, and what decisions call them."""
