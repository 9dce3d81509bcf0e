"""What is this file? By name, by content; and a first recipe from the answers."""

from .arranging import Arranged, Misfit, Relation, arranged
from .candidate import Candidate
from .content import Content, measure_content
from .growing import grown, held
from .looks import Look, look_at
from .names import NameReading, read_name
from .namesakes import Namesake, as_namesake, namesakes
from .plan import FileEntry, plan_set, with_values
from .profile import Ending, SourceProfile, Taught, learned, matched

__all__ = [
    "Arranged",
    "Candidate",
    "Misfit",
    "Relation",
    "arranged",
    "as_namesake",
    "grown",
    "held",
    "Content",
    "Ending",
    "FileEntry",
    "Look",
    "Namesake",
    "NameReading",
    "SourceProfile",
    "Taught",
    "learned",
    "look_at",
    "matched",
    "namesakes",
    "measure_content",
    "plan_set",
    "with_values",
    "read_name",
]
