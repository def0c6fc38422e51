"""Mappings: under which headings customers' files have our columns, each by a name."""

from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.formats.order_columns import OrderColumns
from rundgang.store.rows import Rows
from rundgang.store.tables import OrderMapping


class Mappings(Rows):
    """The mappings there are; the newest of a name counts."""

    def all(self) -> tuple[OrderColumns, ...]:
        """The newest of each name, by name."""
        found: dict[str, OrderColumns] = {}
        for row in self.session.exec(select(OrderMapping).order_by(col(OrderMapping.id))):
            found[row.name] = OrderColumns.model_validate(row.document)
        return tuple(found[name] for name in sorted(found))

    def read(self, name: str) -> OrderColumns:
        """The newest of a name, or UnknownItemError."""
        known = {one.name: one for one in self.all()}
        if name not in known:
            raise UnknownItemError("set of headings", name, tuple(known))
        return known[name]

    def write(self, columns: OrderColumns) -> None:
        """Keep a mapping; it counts from now on."""
        self.session.add(OrderMapping(name=columns.name, document=columns.model_dump(mode="json")))
        self.session.commit()
