"""The tree of an opened STEP file: names, placements, colors and materials."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path

import numpy as np
from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_RetDone
from OCP.Message import Message, Message_Printer
from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
from OCP.Standard import Standard_GUID
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name, TDataStd_TreeNode
from OCP.TDF import TDF_Attribute, TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import (
    XCAFDoc,
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_Material,
    XCAFDoc_MaterialTool,
    XCAFDoc_ShapeTool,
)

from mooring.cad.step.axes import named_placements
from mooring.errors import InputError
from mooring.geometry import Array

MILLIMETRE = 1e-3
"""Open CASCADE converts every file to millimetres while reading."""

# Names that exporters, and Open CASCADE itself, put where the user gave none.
_MEANINGLESS = re.compile(
    r"=>\[.*|NAUO\d*|NEXT_ASSEMBLY_USAGE.*|Open CASCADE STEP translator.*|\s*|none|null|"
    r"SOLID|COMPOUND|COMPSOLID|SHELL|FACE|WIRE|EDGE",
    re.IGNORECASE,
)


class StepNode:
    """One occurrence in the file's tree: a part or a sub-assembly, with its placement."""

    def __init__(self, occurrence: TDF_Label, tool: XCAFDoc_ShapeTool) -> None:
        self._occurrence = occurrence
        self._tool = tool
        self._product = TDF_Label()
        if not XCAFDoc_ShapeTool.GetReferredShape_s(occurrence, self._product):
            self._product = occurrence

    @property
    def name(self) -> str:
        """The occurrence's name, or the product's where the occurrence has none worth reading."""
        return _name_of(self._occurrence) or self.product_name

    @property
    def product_name(self) -> str:
        return _name_of(self._product)

    @property
    def placement(self) -> Array:
        """From this node's coordinates to its parent's, (4, 4) [m]."""
        return _matrix(XCAFDoc_ShapeTool.GetLocation_s(self._occurrence))

    @property
    def is_assembly(self) -> bool:
        return bool(XCAFDoc_ShapeTool.IsAssembly_s(self._product))

    def children(self) -> Iterator[StepNode]:
        labels = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(self._product, labels)
        return (StepNode(labels.Value(k), self._tool) for k in range(1, labels.Length() + 1))

    @property
    def shape(self) -> TopoDS_Shape:
        """The product's shape in its own coordinates [mm]."""
        return XCAFDoc_ShapeTool.GetShape_s(self._product)

    @property
    def shape_key(self) -> str:
        """Equal for all occurrences of one product."""
        entry = TCollection_AsciiString()
        TDF_Tool.Entry_s(self._product, entry)
        return str(entry.ToCString())

    @property
    def color(self) -> str | None:
        """The occurrence's color, else the product's, as "#rrggbb"."""
        return _color_on(self._occurrence) or _color_on(self._product)

    def color_of_piece(self, piece: TopoDS_Shape) -> str | None:
        """The color of one solid or face of the product, where it has its own."""
        label = TDF_Label()
        if not self._tool.FindSubShape(self._product, piece, label):
            return None
        return _color_on(label)

    @property
    def material_name(self) -> str | None:
        node, material = TDataStd_TreeNode(), XCAFDoc_Material()
        if not _find(self._product, XCAFDoc.MaterialRefGUID_s(), node) or not node.HasFather():
            return None
        if not _find(node.Father().Label(), XCAFDoc_Material.GetID_s(), material):
            return None
        return str(material.GetName().ToCString()) or None

    @property
    def material_density(self) -> float | None:
        """[kg/m^3], where the file states one."""
        # Open CASCADE converts to g/mm^3, the unit of mass of its millimetre documents.
        density = float(XCAFDoc_MaterialTool.GetDensityForShape_s(self._product))
        return float(f"{density * 1e6:.12g}") if density > 0 else None


class StepDocument:
    """A STEP file opened by Open CASCADE.

    Attributes:
        file: which.
        frames: the named axis placements of each product, by its name, in its coordinates.
    """

    def __init__(self, file: Path) -> None:
        self.file = file
        Message.DefaultMessenger_s().RemovePrinters(Message_Printer.get_type_descriptor_s())
        self._document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
        XCAFApp_Application.GetApplication_s().InitDocument(self._document)
        reader = STEPCAFControl_Reader()
        reader.SetNameMode(True)
        reader.SetColorMode(True)
        reader.SetMatMode(True)
        if reader.ReadFile(str(file)) != IFSelect_RetDone:
            raise InputError(f"{file}: Open CASCADE cannot read this STEP file; it is damaged")
        if not reader.Transfer(self._document):
            raise InputError(f"{file}: Open CASCADE found nothing it could translate in this file")
        self.frames = named_placements(reader.ChangeReader().WS().Model(), MILLIMETRE)
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(self._document.Main())

    def roots(self) -> list[StepNode]:
        labels = Sequence_TDF_Label()
        self._shapes.GetFreeShapes(labels)
        return [StepNode(labels.Value(k), self._shapes) for k in range(1, labels.Length() + 1)]

    @cached_property
    def shape_count(self) -> int:
        """How many distinct shapes there are, assemblies not counted."""
        labels = Sequence_TDF_Label()
        self._shapes.GetShapes(labels)
        return sum(
            not XCAFDoc_ShapeTool.IsAssembly_s(labels.Value(k))
            for k in range(1, labels.Length() + 1)
        )

    @property
    def name(self) -> str:
        """The name of the only root; empty when there are several."""
        roots = self.roots()
        return roots[0].name if len(roots) == 1 else ""


def _name_of(label: TDF_Label) -> str:
    attribute = TDataStd_Name()
    if not _find(label, TDataStd_Name.GetID_s(), attribute):
        return ""
    name = str(attribute.Get().ToExtString()).strip()
    return "" if _MEANINGLESS.fullmatch(name) else name.replace("/", "_")


def _find(label: TDF_Label, kind: Standard_GUID, attribute: TDF_Attribute) -> bool:
    """Fill an attribute with the one of its kind on a label, if there is one."""
    # FindAttribute alone ends the process where there is none.
    return bool(label.IsAttribute(kind)) and bool(label.FindAttribute(kind, attribute))


def _matrix(location: TopLoc_Location) -> Array:
    move = location.Transformation()
    matrix = np.eye(4)
    for row in range(3):
        for column in range(4):
            matrix[row, column] = move.Value(row + 1, column + 1)
    matrix[:3, 3] *= MILLIMETRE
    return matrix


def _color_on(label: TDF_Label) -> str | None:
    for kind in (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen):
        color = Quantity_Color()
        if XCAFDoc_ColorTool.GetColor_s(label, kind, color):
            return _hex(color)
    return None


def _hex(color: Quantity_Color) -> str:
    values = color.Values(Quantity_TypeOfColor.Quantity_TOC_sRGB)
    return "#" + "".join(f"{round(255 * value):02x}" for value in values)
