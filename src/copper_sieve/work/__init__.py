"""Long work: deliveries, from the plan that a person agrees to, to files on disk."""

from .deliveries.delivering import DeliveredFile, Report, deliver
from .deliveries.planning import Plan, PlannedFile, plan_delivery

__all__ = ["DeliveredFile", "Plan", "PlannedFile", "Report", "deliver", "plan_delivery"]
