"""`python -m bench.floor FILE CHORD ANGLE`: the kernel alone, as its own examples use it; prints its stages as JSON."""

import json
import sys
import time

from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.collections import Sequence_TDF_Label
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFApp import XCAFApp_Application
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from hemp_ladder.core.kernel.shapes import hush


def main(path: str, chord: float, angle: float) -> None:
    """Parse, transfer, and mesh every part once."""
    hush()
    started = time.process_time()
    reader = STEPCAFControl_Reader()
    reader.ReadFile(path)
    parsed = time.process_time()
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader.Transfer(document)
    transferred = time.process_time()
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels = Sequence_TDF_Label()
    tool.GetShapes(labels)
    for i in range(1, len(labels) + 1):
        label = labels.Value(i)
        if tool.IsSimpleShape_s(label):
            BRepMesh_IncrementalMesh(tool.GetShape_s(label), chord, False, angle, False)
    meshed = time.process_time()
    json.dump({"parse": parsed - started, "transfer": transferred - parsed, "mesh": meshed - transferred}, sys.stdout)


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]), float(sys.argv[3]))
