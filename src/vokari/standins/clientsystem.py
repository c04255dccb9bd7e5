"""A client's own system, as it stands in the demo: it knows some callers and what their business is."""

from typing import Any

from fastapi import APIRouter, HTTPException

router = APIRouter()

ORDERS = ("a marquee for the fair, setting up on Friday", "two tents for a wedding in June", "a tent that is up now")


@router.get("/client-system/orders")
def order(caller: str = "") -> dict[str, Any]:
    """What a caller has on order: callers whose number ends in an even digit are known."""
    if not caller or int(caller[-1]) % 2:
        raise HTTPException(404, "Nobody with this number has an order.")
    return {"answer": ORDERS[int(caller[-2:]) % len(ORDERS)]}
