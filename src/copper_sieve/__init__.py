"""Copper Sieve: derive, convert, pack and deliver PBR texture sets."""

__version__ = "0.1.0"
