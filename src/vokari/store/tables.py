"""All tables together, for the migrations."""

from . import agency, calls, flows, holding, hours, lookups, numbers, orders, people, porting, stack, verifications
from .base import Base

metadata = Base.metadata
modules = (agency, calls, flows, holding, hours, lookups, numbers, orders, stack, people, porting, verifications)
