"""Findings: an id, a grade, the numbers that were measured. Their sentences stand in one table."""

from .findings import FINDINGS, Finding, Grade, finding

__all__ = ["FINDINGS", "Finding", "Grade", "finding"]
