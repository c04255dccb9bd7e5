"""All tables together, for the migrations."""

from . import agency, calls, due, edits, flows, holding, hours, numbers, people, places, prompts, proofs, reports, stack
from .base import Base

metadata = Base.metadata
modules = (agency, calls, due, edits, flows, holding, hours, numbers, people, places, prompts, proofs, reports, stack)
