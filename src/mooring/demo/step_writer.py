"""Writes a nested assembly as a STEP file, with names, colors, materials and shared products."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from pathlib import Path

from OCP.APIHeaderSection import APIHeaderSection_MakeHeader
from OCP.BRep import BRep_Builder
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.Message import Message, Message_Printer
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from mooring.demo.modelling import DIRECTIONS, Point

# Fixed, so that making a file again changes no more than the order of its colors.
TIMESTAMP = "2026-11-23T00:00:00"


@dataclass(eq=False)
class Product:
    """One piece as it would be made or bought; placed any number of times."""

    name: str
    solid: TopoDS_Shape
    color: str
    material: str
    density: float
    """[kg/m^3]"""


@dataclass(eq=False)
class Group:
    """A sub-assembly."""

    name: str
    items: list[Placed] = field(default_factory=list)

    def place(
        self,
        content: Product | Group,
        at: Point = (0, 0, 0),
        turn: tuple[str, float] | None = None,
        name: str | None = None,
    ) -> Group:
        """Put a piece at a point [mm], first turned about an axis by degrees; returns the group."""
        self.items.append(Placed(content, at, turn, name or content.name))
        return self


@dataclass(eq=False)
class Placed:
    """One occurrence of a piece or a sub-assembly inside a group."""

    content: Product | Group
    at: Point
    turn: tuple[str, float] | None
    name: str

    def location(self) -> TopLoc_Location:
        """The placement as Open CASCADE holds it."""
        move = gp_Trsf()
        move.SetTranslation(gp_Vec(*self.at))
        if self.turn is not None:
            axis, degrees = self.turn
            turn = gp_Trsf()
            turn.SetRotation(
                gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*DIRECTIONS[axis])), math.radians(degrees)
            )
            move.Multiply(turn)
        return TopLoc_Location(move)


class _Document:
    """The assembly on its way into an Open CASCADE document."""

    def __init__(self) -> None:
        self.document = TDocStd_Document(TCollection_ExtendedString("XmlXCAF"))
        XCAFApp_Application.GetApplication_s().InitDocument(self.document)
        main = self.document.Main()
        self.shapes = XCAFDoc_DocumentTool.ShapeTool_s(main)
        self.colors = XCAFDoc_DocumentTool.ColorTool_s(main)
        self.materials = XCAFDoc_DocumentTool.MaterialTool_s(main)
        self.labels: dict[int, TDF_Label] = {}
        self.material_labels: dict[str, TDF_Label] = {}

    def add(self, content: Product | Group) -> TDF_Label:
        """The label of a piece or sub-assembly, made when first asked for."""
        if id(content) not in self.labels:
            self.labels[id(content)] = (
                self._add_product(content)
                if isinstance(content, Product)
                else self._add_group(content)
            )
        return self.labels[id(content)]

    def _add_product(self, product: Product) -> TDF_Label:
        label = self.shapes.AddShape(product.solid, False)
        _set_name(label, product.name)
        red, green, blue = (int(product.color[k : k + 2], 16) / 255 for k in (1, 3, 5))
        color = Quantity_Color(red, green, blue, Quantity_TOC_sRGB)
        self.colors.SetColor(label, color, XCAFDoc_ColorType.XCAFDoc_ColorGen)
        self.materials.SetMaterial(label, self._material(product))
        return label

    def _material(self, product: Product) -> TDF_Label:
        if product.material not in self.material_labels:
            # STEP files conventionally state densities in g/cm^3.
            self.material_labels[product.material] = self.materials.AddMaterial(
                TCollection_HAsciiString(product.material),
                TCollection_HAsciiString(""),
                product.density / 1000,
                TCollection_HAsciiString("density measure"),
                TCollection_HAsciiString("POSITIVE_RATIO_MEASURE"),
            )
        return self.material_labels[product.material]

    def _add_group(self, group: Group) -> TDF_Label:
        empty = TopoDS_Compound()
        BRep_Builder().MakeCompound(empty)
        label = self.shapes.AddShape(empty, True)
        _set_name(label, group.name)
        for placed in group.items:
            occurrence = self.shapes.AddComponent(
                label, self.add(placed.content), placed.location()
            )
            _set_name(occurrence, placed.name)
        return label


def write_step(assembly: Group, path: Path) -> None:
    """Write the assembly as an AP214 file in millimetres."""
    # Open CASCADE prints statistics of what it writes.
    Message.DefaultMessenger_s().RemovePrinters(Message_Printer.get_type_descriptor_s())
    document = _Document()
    document.add(assembly)
    document.shapes.UpdateAssemblies()
    Interface_Static.SetCVal_s("write.step.schema", "AP214IS")
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    Interface_Static.SetCVal_s("write.step.product.name", assembly.name)
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    writer.SetMaterialMode(True)
    if not writer.Transfer(document.document):
        raise RuntimeError(f"Open CASCADE could not translate {assembly.name!r}")
    header = APIHeaderSection_MakeHeader(writer.ChangeWriter().Model())
    header.SetName(TCollection_HAsciiString(path.name))
    header.SetTimeStamp(TCollection_HAsciiString(TIMESTAMP))
    header.SetAuthorValue(1, TCollection_HAsciiString("Mooring"))
    if writer.Write(str(path)) != IFSelect_RetDone:
        raise RuntimeError(f"Open CASCADE could not write {path}")


def _set_name(label: TDF_Label, name: str) -> None:
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(name, True))
