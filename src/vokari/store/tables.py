"""All tables together, for the migrations."""

from . import agency, calls, flows, holding, hours, lookups, numbers, orders, parts, people, ports, verifications
from .base import Base

metadata = Base.metadata
modules = (agency, calls, flows, holding, hours, lookups, numbers, orders, parts, people, ports, verifications)
