"""All tables together, for the migrations."""

from . import agency, calls, edits, flows, holding, hours, numbers, people, reports, stack
from .base import Base

metadata = Base.metadata
modules = (agency, calls, edits, flows, holding, hours, numbers, people, reports, stack)
