"""How the log is written: lines of text, a traceback as Python writes it, whatever else is installed."""

import structlog


def plain() -> None:
    """Sets the log up. A formatter that draws tracebacks with all their values takes seconds, in which its process answers nobody."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.StackInfoRenderer(),
            structlog.dev.set_exc_info,
            structlog.processors.TimeStamper(fmt="%Y-%m-%d %H:%M:%S", utc=False),
            structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback),
        ]
    )
