"""Structured logs: each line says which request or job it belongs to, with an id that a reader can follow through all of them."""

from typing import Any

import structlog

_SHARED: list[Any] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso"),
]


def logging_of(level: str, as_json: bool) -> dict[str, Any]:
    """Django's LOGGING. level: the least that is written; as_json: one JSON object a line, for programs to read."""
    last = (
        structlog.processors.JSONRenderer()
        if as_json
        else structlog.dev.ConsoleRenderer(colors=False, exception_formatter=structlog.dev.plain_traceback)
    )
    tracebacks = [structlog.processors.dict_tracebacks] if as_json else []
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "lines": {
                "()": structlog.stdlib.ProcessorFormatter,
                "foreign_pre_chain": _SHARED,
                "processors": [structlog.stdlib.ProcessorFormatter.remove_processors_meta, *tracebacks, last],
            }
        },
        "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "lines"}},
        "root": {"handlers": ["console"], "level": level},
    }


bound = structlog.contextvars.bound_contextvars
"""Inside, lines carry these: `with bound(job="…")`."""
