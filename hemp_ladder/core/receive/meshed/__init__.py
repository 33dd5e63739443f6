"""What all formats share that bring triangles: polygons cut up, corners made vertices, parts made of them."""
