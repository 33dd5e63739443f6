"""Facets before they are decided: settings tried, measured and spread over parts."""
