"""Receive: which reader takes a file, told from its content, and what is noticed about the model."""
