"""Long work: deliveries, from the plan that a person agrees to, to files on disk."""

from ..core.plan import Plan, PlannedFile
from .deliveries.delivering import DeliveredFile, Report, deliver
from .deliveries.planning import plan_delivery

__all__ = ["DeliveredFile", "Plan", "PlannedFile", "Report", "deliver", "plan_delivery"]
