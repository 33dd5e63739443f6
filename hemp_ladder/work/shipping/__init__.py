"""Shipping: the task that writes a delivery and proves it."""
