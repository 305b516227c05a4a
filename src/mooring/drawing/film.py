"""Films: pictures one after the other, as MP4, or as animated WebP or GIF."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from types import TracebackType
from typing import Any

from PIL import Image

from mooring.errors import InputError
from mooring.files import write_whole

SUFFIXES = (".mp4", ".webp", ".gif")


class Film:
    """A film that is being written; it takes its place when it is finished, and not before.

    Example:
        `with Film(Path("sweep.mp4"), rate=25) as film: film.add(image)`
    """

    def __init__(self, file: Path, rate: int = 25) -> None:
        """Begin a film.

        Args:
            file: .mp4, .webp or .gif.
            rate: pictures a second.

        Raises:
            InputError: another suffix.
        """
        if file.suffix.lower() not in SUFFIXES:
            raise InputError(f"{file}: films are written as {', '.join(SUFFIXES)}")
        self.file, self.rate = file, rate
        self._pictures: list[Image.Image] = []
        self._whole: Any = None
        self._container: Any = None
        self._stream: Any = None

    def __enter__(self) -> Film:
        self._whole = write_whole(self.file)
        self._output = self._whole.__enter__()
        return self

    def add(self, image: Image.Image) -> None:
        """Add a picture; all have the size of the first, with even sides."""
        if self.file.suffix.lower() != ".mp4":
            self._pictures.append(image.convert("P", palette=Image.Palette.ADAPTIVE)
                                  if self.file.suffix.lower() == ".gif" else image)  # fmt: skip
            return
        import av

        if self._container is None:
            self._container = av.open(self._output, mode="w", format="mp4")
            self._stream = self._container.add_stream("libx264", rate=Fraction(self.rate))
            self._stream.width, self._stream.height = image.width, image.height
            self._stream.pix_fmt = "yuv420p"
            self._stream.options = {"crf": "20", "preset": "veryfast"}
        frame = av.VideoFrame.from_image(image)
        for packet in self._stream.encode(frame):
            self._container.mux(packet)

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        if kind is None:
            self._finish()
        self._whole.__exit__(kind, error, trace)

    def _finish(self) -> None:
        if self._container is not None:
            for packet in self._stream.encode():
                self._container.mux(packet)
            self._container.close()
        elif self._pictures:
            self._pictures[0].save(
                self._output, self.file.suffix.lstrip(".").upper(), save_all=True, loop=0,
                append_images=self._pictures[1:], duration=round(1000 / self.rate),
            )  # fmt: skip
