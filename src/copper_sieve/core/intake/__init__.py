"""What is this file? By name, by content; and a first recipe from the answers."""

from .arranging import Arranged, Misfit, Relation, arranged
from .by_set import SetReading, read_by_set, readings_by_set
from .candidate import Candidate
from .content import Content, measure_content
from .growing import grown, held
from .looks import Look, look_at
from .names import NameReading, read_name
from .plan import FileEntry, plan_set, with_values
from .profile import Ending, SourceProfile, Taught, learned, matched

__all__ = [
    "Arranged",
    "Candidate",
    "Misfit",
    "Relation",
    "arranged",
    "read_by_set",
    "grown",
    "held",
    "Content",
    "Ending",
    "FileEntry",
    "Look",
    "SetReading",
    "NameReading",
    "SourceProfile",
    "Taught",
    "learned",
    "look_at",
    "matched",
    "readings_by_set",
    "measure_content",
    "plan_set",
    "with_values",
    "read_name",
]
