"""A job as one file: its document as it is kept, and its pictures."""

from __future__ import annotations

import io
import json
import re
import zipfile
from typing import Any

from bisectum.core.errors import NotFoundError
from bisectum.core.patterns import SHA256
from bisectum.store.blobs import Blobs


def bundle(document: dict[str, Any], blobs: Blobs) -> tuple[str, bytes]:
    """File name and bytes of a ZIP archive. A picture that is missing is left out."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("job.json", json.dumps(document, indent=1, ensure_ascii=False))
        for source, name in sorted(_pictures(document).items()):
            try:
                archive.writestr(f"pictures/{source[:12]}-{name}", blobs.get(source))
            except NotFoundError:
                continue
    stem = re.sub(r"[^\w-]+", "-", str(document.get("name", ""))).strip("-") or "job"
    return f"{stem}.zip", buffer.getvalue()


def _pictures(document: dict[str, Any]) -> dict[str, str]:
    """The files of the pictures a document names, whatever its form: by their hash, what each was called."""
    items = document.get("items")
    own = [item for item in items if isinstance(item, dict)] if isinstance(items, list) else []
    made = [item["made"] for item in own if isinstance(item.get("made"), dict)]
    found = [one for one in (*own, *made) if re.fullmatch(SHA256, str(one.get("source")))]
    return {str(item["source"]): re.sub(r"[^\w.-]+", "-", str(item.get("file_name", "picture"))) for item in found}
