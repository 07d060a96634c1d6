"""Long lists, page by page."""

from __future__ import annotations

from rest_framework.pagination import CursorPagination


class Pages(CursorPagination):
    """So many rows at a time, what came in last first."""

    ordering = ("-added_at", "pk")
    page_size = 30
    page_size_query_param = "page_size"
    max_page_size = 200
