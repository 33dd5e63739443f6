"""The drawn body: shapes in the plane as they were drawn, and the step that makes prisms, sheets and ribbons of them."""
