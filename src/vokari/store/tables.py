"""All tables together, for the migrations."""

from . import agency, calls, flows, numbers, orders, ports
from .base import Base

metadata = Base.metadata
modules = (agency, calls, flows, numbers, orders, ports)
