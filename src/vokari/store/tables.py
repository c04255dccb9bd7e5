"""All tables together, for the migrations."""

from . import agency, calls, flows, hours, numbers, orders, people, ports
from .base import Base

metadata = Base.metadata
modules = (agency, calls, flows, hours, numbers, orders, people, ports)
