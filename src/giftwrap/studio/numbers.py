"""Numbers in addresses."""

from typing import Annotated

from ninja import Path

from giftwrap.core.model.document import MOST_ID

Id = Annotated[int, Path(ge=1, le=MOST_ID)]
"""Of a row."""
