"""What every model of the core has in common: immutable, strict about fields, finite numbers only."""

from collections.abc import Mapping
from inspect import get_annotations
from types import UnionType
from typing import Annotated, Any, ClassVar, Literal, Self, Union, get_args, get_origin
from unicodedata import category

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, PlainSerializer, Strict, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
"""A key: lower-case letters, digits and hyphens, 1 to 40 characters."""


def _writable(text: str, breaks: str = "") -> str:
    """The text, or ValueError where it has what no XML file may hold (XML 1.0, section 2.2), or a control character."""
    for character in text:
        if character not in breaks and (category(character) in {"Cc", "Cs"} or character in "\ufffe\uffff"):
            raise ValueError(f"only characters that can be written, not U+{ord(character):04X}")
    return text


Text = Annotated[str, AfterValidator(_writable)]
"""One line of what people write."""


def _lines(text: str) -> str:
    """The text with each line ended as this system ends them."""
    return _writable(text.replace("\r\n", "\n"), breaks="\n")


Lines = Annotated[str, AfterValidator(_lines)]
"""What people write, in as many lines as it takes."""

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), AfterValidator(_writable)]
"""What people call a thing."""

FORMULA_SIGNS = "=+-@"
"""A spreadsheet takes a cell that begins with one of these for a formula and runs it."""


def no_formula(text: str) -> str:
    """The text, or ValueError where a spreadsheet would take it for a formula."""
    if text[:1] in FORMULA_SIGNS and text:
        raise ValueError(f"begins with {text[0]}; allowed: what a spreadsheet does not take for a formula")
    return text


Names = Annotated[frozenset[Name], PlainSerializer(sorted, return_type=list[str], when_used="json")]
"""Names in no order; documents give them in the alphabet's, so that the same set is the same text."""

Minutes = Annotated[float, Field(ge=0, le=10_080)]
"""A duration of at most a week, min."""

PositiveMinutes = Annotated[float, Field(ge=0.01, le=10_080)]
"""A duration that cannot be nothing: at least 0.6 s, min."""

Celsius = Annotated[float, Field(ge=-40, le=400)]
"""Any temperature a bakery meets, °C."""

LEAST_FRESH_H, MOST_FRESH_H = 0.5, 10_000.0
FreshFor = Annotated[float, Field(ge=LEAST_FRESH_H, le=MOST_FRESH_H)]
"""How old a pack may be when its lorry leaves, h."""

Share = Annotated[float, Field(ge=0.01, le=1)]
"""A yield or an efficiency: good out / in; below one in a hundred it is a slip of the hand."""


def _numbers_only(annotation: Any) -> Any:
    """The type, with numbers in it that are numbers: neither true and false nor figures in quotes."""
    origin, inner = get_origin(annotation), get_args(annotation)
    if annotation is float or annotation is int:
        return Annotated[annotation, Strict()]
    if origin is Annotated:
        return Annotated[(_numbers_only(inner[0]), *annotation.__metadata__)]
    if not inner or origin in {Literal, ClassVar}:
        return annotation
    within = tuple(_numbers_only(each) for each in inner)
    return Union[within] if origin in {Union, UnionType} else origin[within]  # noqa: UP007  (of a tuple)


class Model(BaseModel):
    """Base of all core models."""

    as_typed: ClassVar[bool] = False
    """Whether figures may come as they are typed, in quotes."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def __init_subclass__(cls, **more: Any) -> None:
        super().__init_subclass__(**more)
        if not cls.as_typed:
            cls.__annotations__ = {name: _numbers_only(of) for name, of in get_annotations(cls).items()}

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy, perhaps with other values; what was worked out from the old ones is not taken along."""
        copied = super().model_copy(update=update, deep=deep)
        if update:
            for name in copied.__dict__.keys() - type(self).model_fields.keys():
                del copied.__dict__[name]
        return copied
