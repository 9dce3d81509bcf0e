"""Every request and answer of the API, by noun."""
