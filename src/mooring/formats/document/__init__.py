"""Mooring's own documents: YAML, read and edited with their comments kept."""

from mooring.formats.document.editor import DocumentEditor
from mooring.formats.document.load import load_document

__all__ = ["DocumentEditor", "load_document"]
