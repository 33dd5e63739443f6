"""The list of codes: everything that can be noticed, how grave it is, why it matters, what to do."""

from dataclasses import dataclass
from typing import Literal

Severity = Literal["error", "warning", "note"]


@dataclass(frozen=True)
class Kind:
    """One entry of the list of codes: how grave it is, why it matters, what to do."""

    severity: Severity
    why: str
    remedy: str


KINDS: dict[str, Kind] = {
    "unreadable-source": Kind(
        "error",
        "Nothing of this file can be used.",
        "Ask for the file again, or for another export of it; check that it opens where it was made.",
    ),
    "reader-crashed": Kind(
        "error",
        "The file is damaged in a way that brings the CAD reader down.",
        "Ask for a fresh export; a file that was cut or changed on its way does this.",
    ),
    "reading-failed": Kind(
        "error",
        "It is no fault of the file that anybody knows of: something on our side went wrong while reading it.",
        "Try again; if it happens again, the sentence above says what whoever runs this house should look for.",
    ),
    "cut-short": Kind(
        "warning",
        "What stood after the place where it was cut is not here, and nothing says how much that was.",
        "Ask for the file again; check its size where it was made.",
    ),
    "reader-limit": Kind(
        "error",
        "Reading the file took more memory or time than one file may take.",
        "Ask for the file in several pieces, or raise the limit in the settings of the server.",
    ),
    "missing-member": Kind(
        "warning",
        "The assembly refers to another file, whose parts are not in the model.",
        "Add the named file to the same drop or ZIP bundle and receive it again.",
    ),
    "at-rest": Kind(
        "note",
        "A still picture shows one pose.",
        "Pose it where it was made and export it so, where the pose matters.",
    ),
    "picture-unreadable": Kind(
        "warning",
        "Its surfaces show their plain colour.",
        "Save it as PNG or JPEG and receive it again.",
    ),
    "maps-guessed": Kind(
        "note",
        "Downloaded models often come with maps that their materials do not name.",
        "Take them, or look through them one by one on the maps board.",
    ),
    "opaque-picture": Kind(
        "warning",
        "Leaves, grilles and lace show as solid cards.",
        "Say how its opacity is taken.",
    ),
    "opaque-glass": Kind(
        "warning",
        "Exports often lose what lets light through; such glass renders like enamel.",
        "Let light through it, or give it an opacity.",
    ),
    "invisible": Kind(
        "warning",
        "Exports often write opacity the wrong way round.",
        "Make it opaque, or leave it out.",
    ),
    "gloss-for-roughness": Kind(
        "warning",
        "Where gloss is taken for roughness, what should shine is dull and the other way round.",
        "Turn it over.",
    ),
    "no-normal-map": Kind(
        "warning",
        "Its colours are taken for directions: the surface would be lit at random.",
        "Take it for what it is, or wear none.",
    ),
    "too-shiny": Kind(
        "note",
        "Downloaded models shine more than anything real.",
        "Say how shiny it may be at most.",
    ),
    "picture-small": Kind(
        "note",
        "Near by it looks soft.",
        "Ask for a larger picture where the part comes near the camera.",
    ),
    "picture-repeats": Kind(
        "note",
        "The eye finds the pattern at once.",
        "Lay it larger, or wear one with more in it.",
    ),
    "lookouts": Kind(
        "note",
        "Somebody chose those views.",
        "They can be looked from on the stage.",
    ),
    "cage": Kind(
        "note",
        "Its maker saw it rounder than it is here.",
        "Ask for an export with subdivision applied, or smooth its normals at Mend.",
    ),
    "map-without-slot": Kind(
        "note",
        "It says place by place what is one number here.",
        "Bake it into one of the other maps where it matters to the picture.",
    ),
    "missing-beside": Kind(
        "warning",
        "What it says of how surfaces look is not in the model.",
        "Add the named file to the same drop or ZIP bundle and receive it again, or give materials at Sort.",
    ),
    "outside-reference": Kind(
        "warning",
        "A file may not reach for files outside its own bundle; only the bare name was looked for.",
        "Put the named file into the same ZIP bundle.",
    ),
    "passed-over": Kind(
        "note",
        "Nothing of it is in the job.",
        "It is kept with the rest as it came. If it holds a model, ask for that as STEP, IFC, OBJ, GLB, DXF or SVG.",
    ),
    "unit-missing": Kind(
        "warning",
        "Without a unit the size of everything is a guess.",
        "State the unit at Fit and look at the size beside the yardstick.",
    ),
    "up-missing": Kind(
        "note",
        "What lies on its side is turned by hand in every program it goes to.",
        "Look at it beside the yardstick, and state at Fit which axis points up.",
    ),
    "unit-doubtful": Kind(
        "warning",
        "Models of this size are rare; a wrong unit is likely.",
        "Check the size beside the yardstick at Fit and state the unit if it is wrong.",
    ),
    "lies-down": Kind(
        "warning",
        "What lies on its side is turned by hand in every program it goes to.",
        "Look at it beside the yardstick, and state which axis points up.",
    ),
    "unit-odd": Kind(
        "note",
        "A unit that nobody uses is often a slip of the exporting program.",
        "Check the size beside the yardstick at Fit.",
    ),
    "far-from-origin": Kind(
        "warning",
        "Renderers count in 32 bit numbers; this far out, surfaces tremble and gaps open.",
        "Move it near the origin. The offset stays in the decisions and in every receipt.",
    ),
    "hidden-layers": Kind(
        "note",
        "What its author switched off is often old, or drawn for somebody else.",
        "It came in with the rest. Leave it out if it is not wanted.",
    ),
    "coincident-copies": Kind(
        "warning",
        "Two surfaces in one place flicker in a render and weigh twice.",
        "Take one of each.",
    ),
    "reversed-faces": Kind(
        "note",
        "A surface that faces inward is a hole to renderers that draw one side.",
        "They were turned to agree with their neighbours. Look at facing at Mend.",
    ),
    "stays-out": Kind(
        "note",
        "They mark room or absence, not matter.",
        "Take them if they are wanted.",
    ),
    "over-chord": Kind(
        "warning",
        "Its outline is rougher there than was asked; surfaces that bend sharply or cross themselves do this.",
        "Give it a finer chord error of its own, and look at it in the swatches.",
    ),
    "dense-part": Kind(
        "warning",
        "One part that weighs as much as the scene slows everything and is seldom worth it.",
        "Give it a coarser chord error of its own, or leave it out.",
    ),
    "lost-shape": Kind(
        "warning",
        "A part whose holes are closed, whose pieces are gone or whose outline changed is seen to be another.",
        "Put it back to where its shape holds, or reduce it less.",
    ),
    "exact-reduced": Kind(
        "note",
        "Of an exact part the true surface is known: facets made anew at the same count keep their corners on it.",
        "Compare both on the grades board, or have coarser facets in the place of reduction.",
    ),
    "over-limit": Kind(
        "warning",
        "What is over a receiver's limit is refused there, or halts for everybody who opens it.",
        "Take the steps that buy most first, or raise the limit.",
    ),
    "unfit-names": Kind(
        "note",
        "A name that the receiver cuts or refuses is found under another there, or not at all.",
        "Rename them by a pattern, or have them fitted as they ship.",
    ),
    "live-text": Kind(
        "warning",
        "Which font sets it is not in the file, so its letters would look different everywhere, or be missing.",
        "Turn the text into outlines where it was drawn, and replace this source. Everything else is there.",
    ),
    "bitmap": Kind(
        "warning",
        "A picture made of pixels has no edge that could be made solid.",
        "Ask for the outlines it was made from, or have it traced.",
    ),
    "unfollowed": Kind(
        "warning",
        "A mask hides by brightness and a pattern repeats a picture: neither has an edge of its own.",
        "Where it matters, turn masks into clips and patterns into outlines where it was drawn, and replace this source.",
    ),
    "outside-link": Kind(
        "warning",
        "A file from a stranger may not reach into the network or into other files, so what it meant is not here.",
        "Ask for a file that holds everything itself.",
    ),
    "foreign-namespaces": Kind(
        "note",
        "An editor's own notes draw nothing, but some receivers refuse the file for them.",
        "They were passed over. A cleaned file without them can be saved.",
    ),
    "hidden-elements": Kind(
        "note",
        "What its author hid is no part of the picture.",
        "They stay out. If one is wanted, show it where it was drawn and replace this source.",
    ),
    "strokes-only": Kind(
        "note",
        "The lines became areas as wide as the pen, not the areas between them.",
        "Give them a width or a height at Outlines; if the areas between were meant, ask for filled shapes.",
    ),
    "self-crossing": Kind(
        "note",
        "Where an outline crosses itself the fill rule decides what is solid, which may not be what was meant.",
        "Look at it at Outlines.",
    ),
    "nearly-closed": Kind(
        "warning",
        "An outline that does not close encloses nothing and cannot be made solid.",
        "Close gaps of this size.",
    ),
    "outlines-wait": Kind(
        "note",
        "An outline is only a line until it has a height.",
        "Give its layer a height at Outlines.",
    ),
    "thin-wall": Kind(
        "warning",
        "A wall thinner than the nozzle is left out by the slicer, or breaks.",
        "Make it as wide as the nozzle, or enlarge the whole.",
    ),
    "unread-bodies": Kind(
        "warning",
        "They are in a form of their own that is not open; their shape is not in the model.",
        "Ask for them as STEP, or as meshes.",
    ),
    "unplaced-blocks": Kind(
        "warning",
        "What stands in them is not in the model.",
        "Ask for the file again with its blocks, or with what they refer to.",
    ),
    "smooth-mesh": Kind(
        "note",
        "The mesh as it is stored is the cage that the smooth surface was made from.",
        "It came in as the cage. If the smooth surface was meant, ask for it as a mesh or a solid.",
    ),
    "doubled-lines": Kind(
        "note",
        "Lines drawn twice keep outlines from closing, and weigh twice.",
        "Nothing needs doing.",
    ),
    "recovered": Kind(
        "warning",
        "The file was damaged; what could be put in order was.",
        "Look it through, or ask for it again.",
    ),
    "other-layouts": Kind(
        "note",
        "A layout on paper repeats the model in views; only the model itself is read.",
        "Nothing needs doing.",
    ),
    "unreadable-entity": Kind(
        "warning",
        "It is not in the model.",
        "Ask for it in another representation, or do without it. Everything else is there.",
    ),
    "sewn": Kind(
        "note",
        "Neighbouring surfaces that do not share their edges show cracks; these now do.",
        "Look at the open ones at Mend. Nothing else needs doing.",
    ),
    "no-material": Kind(
        "warning",
        "Without colour or layer nothing says what the part is made of.",
        "Give it a material at Sort, by name or by part.",
    ),
    "unnamed": Kind("note", "Rules by name cannot reach the part.", "Name it in a rule at Sort."),
    "leftovers": Kind(
        "note",
        "What has no surface would be dead weight in a mesh.",
        "They stay out of the mesh. Nothing needs doing.",
    ),
    "open-shell": Kind(
        "note",
        "Its surface has edges where it ends, so it has no inside; slicers refuse it.",
        "Fine for a render. For printing, ask for a closed solid.",
    ),
    "failed-face": Kind(
        "warning",
        "The part has a hole where the face should be.",
        "Try another chord error for the part; if it stays, ask for the part again.",
    ),
    "failed-part": Kind(
        "error",
        "The part is not in the mesh at all.",
        "Try another chord error for the part; if it stays, ask for the part again.",
    ),
    "inside-out": Kind(
        "warning",
        "Renderers that draw one side only show it as a hole.",
        "Flip the part at Mend.",
    ),
    "not-done": Kind(
        "warning",
        "The mesh stays as it was before.",
        "Give the part another setting, or except it.",
    ),
    "duplicate-triangles": Kind(
        "warning",
        "Two triangles in one place flicker in a render and weigh twice.",
        "Take one of each.",
    ),
    "degenerate-triangles": Kind(
        "note",
        "A triangle without an area shows nothing, and its shading is black dots.",
        "Leave them out.",
    ),
    "t-joints": Kind(
        "warning",
        "A corner on the middle of another triangle's edge lets the background through in a render.",
        "Run the edges through them.",
    ),
    "over-shared": Kind(
        "warning",
        "Where more than two triangles share an edge nothing says what is inside; slicers and other tools refuse it.",
        "Take away sheets inside and fins, and pull apart what only touches.",
    ),
    "crossing-triangles": Kind(
        "warning",
        "Triangles that go through each other flicker, and slicers print what nobody meant.",
        "Unite the shells. Look at the result.",
    ),
    "holes": Kind(
        "note",
        "Its surface ends where it should go on; light leaks in, and slicers refuse it.",
        "Close them, if they are not meant.",
    ),
    "against-winding": Kind(
        "warning",
        "Neighbouring triangles disagree about which side is out: half of them are missing in many programs.",
        "Wind them alike.",
    ),
    "inward-shells": Kind(
        "warning",
        "Renderers that draw one side only show them as holes.",
        "Turn them outward.",
    ),
    "bad-normals": Kind(
        "warning",
        "A vertex without a normal, or with one that looks the wrong way, renders as a black spot.",
        "Make the normals anew from the triangles.",
    ),
    "no-normals": Kind(
        "note",
        "Without normals every triangle shades flat.",
        "Smooth it up to an angle, if it is meant to be round.",
    ),
    "empty-model": Kind(
        "error",
        "There is no surface in the file to make triangles from.",
        "Ask for an export with solids or surfaces.",
    ),
}  # fmt: skip
