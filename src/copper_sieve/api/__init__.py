"""FastAPI: one router per noun."""
