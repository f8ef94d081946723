"""Ground tracks as GPX."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from xml.etree import ElementTree

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook.joining import Track, track_of
from wise_cellar.store.logs.common import Progress, stop
from wise_cellar.store.reading import readable, told


def read_track(path: Path, progress: Progress) -> Track:
    """Points with their times; raises :class:`DocumentError`."""
    stop(progress, 0.1)
    with readable(path, "the track"):
        body = path.read_bytes()
    if b"<!DOCTYPE" in body or b"<!ENTITY" in body:
        raise DocumentError(
            f"{told(path.name)} declares things of its own, which a track does not need; it is not read."
        )
    try:
        root = ElementTree.fromstring(body)
    except ElementTree.ParseError as error:
        raise DocumentError(f"{told(path.name)} is no GPX track: {error}.") from error
    rows = []
    for number, point in enumerate((one for one in root.iter() if one.tag.endswith("trkpt")), 1):
        inside = {child.tag.rpartition("}")[2]: (child.text or "").strip() for child in point}
        try:
            at = datetime.fromisoformat(inside["time"].replace("Z", "+00:00"))
            seconds = (at if at.tzinfo else at.replace(tzinfo=UTC)).timestamp()
            height = float(inside["ele"]) if inside.get("ele") else np.nan
            rows.append((seconds, float(point.attrib["lat"]), float(point.attrib["lon"]), height))
        except (KeyError, ValueError) as error:
            raise DocumentError(f"{told(path.name)}, point {number}: its time or its place cannot be read.") from error
    return track_of(path.name, np.array(rows).reshape(-1, 4))
