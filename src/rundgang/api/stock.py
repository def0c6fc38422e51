"""The routes of stock: packs and materials are counted, deliveries entered; each with who said so and why."""

from datetime import date, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import Field

from rundgang.api.deps import PAGE, Author, Before, Csv, FileName, Most, Now, Planned, Store
from rundgang.core.model import Id, Model, Name, Names
from rundgang.formats.stock_csv import Coming, read_stock, write_stock
from rundgang.jobs import stocktaking
from rundgang.store.openings import OpeningNote

router = APIRouter(prefix="/api/stock")


class PacksCounted(Model):
    """So many packs of a product are in stock now; and when those that nobody knew of were made, if one says so."""

    product: Id
    packs: int = Field(ge=0, le=1_000_000)
    made: datetime | None = Field(default=None, description="on the plant's clock")


class PacksRequest(Model):
    """Products that have been counted."""

    counted: tuple[PacksCounted, ...] = Field(min_length=1, max_length=5_000)
    reason: Name
    author: Author = "planner"


class MaterialRequest(Model):
    """A material that has been counted: kg, or pieces of packing."""

    item: Id
    amount: float = Field(ge=0, le=10_000_000)
    reason: Name
    author: Author = "planner"


class DeliveryRequest(Model):
    """What comes in of a material, and when; by supplier's lot, where it is known."""

    item: Id
    amount: float = Field(gt=0, le=10_000_000)
    at: datetime = Field(description="on the plant's clock")
    lot: Name | None = None
    best_before: date | None = None
    allergens: Names = Field(default=frozenset(), description="what it brings beside what its ingredient always does")
    author: Author = "planner"


@router.get("/entries")
def entries(store: Store, before: Before = None, most: Most = PAGE) -> tuple[OpeningNote, ...]:
    """Who has entered what of stock, closings and the state of the plant in this window, newest first."""
    return store.openings.notes(before, most)


@router.post("/packs", status_code=201)
def count_packs(store: Planned, now: Now, request: PacksRequest) -> OpeningNote:
    """Enter what was counted of packs; fewer than there should be are the oldest that have gone."""
    counted = [stocktaking.Counted(one.product, one.packs, one.made) for one in request.counted]
    return stocktaking.count_packs(store, now, counted, request.reason, request.author)


@router.post("/materials", status_code=201)
def count_material(store: Planned, now: Now, request: MaterialRequest) -> OpeningNote:
    """Enter what was counted of a material at this moment, by the plan that the floor works by."""
    return stocktaking.count_material(store, now, request.item, request.amount, request.reason, request.author)


@router.post("/deliveries", status_code=201)
def deliver(store: Planned, request: DeliveryRequest) -> OpeningNote:
    """Enter a delivery, one that has come or one that will."""
    return stocktaking.deliver(store, Coming(**request.model_dump(exclude={"author"})), request.author)


@router.get("/file.csv", response_class=Response)
def stock_file(store: Store, now: Now) -> Response:
    """Packs in stock with their age, materials as they should be there now, and what comes, as a file."""
    text = write_stock(stocktaking.levels(store, now))
    headers = {"Content-Disposition": 'attachment; filename="stock.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/file", status_code=201)
def take_file(
    store: Planned,
    now: Now,
    data: Csv,
    name: FileName = "stock.csv",
    author: Annotated[Author, Query(description="Who has counted.")] = "planner",
) -> OpeningNote:
    """Take a file of stock: all of it, or nothing where a row is wrong."""
    file = read_stock(data, store.windows.scenario())
    return stocktaking.take_file(store, now, file, name, author)
