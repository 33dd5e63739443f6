"""The lantern of the harbour light Gull Rock: an invented light, 4.2 m wide and 6.9 m tall."""

import math

from OCP.BRep import BRep_Builder
from OCP.TDF import TDF_Label
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape

from demo.document import Assembly
from demo.shapes import (
    around,
    box,
    chamfer,
    cut,
    cylinder,
    extrude,
    extrude_edges,
    fillet,
    fuse,
    line,
    pipe,
    place,
    revolve,
    revolve_edges,
    sphere,
    spline,
    torus,
)  # fmt: skip

IRON, RAIL, WHITE, BAND, RED = "#3c434a", "#2f5d62", "#ece6d8", "#b5432b", "#a4492f"
GLASS, LENS, BRASS, STEEL, ZINC, TIMBER = "#cfe3e2", "#9fd0cb", "#c9a24e", "#8f979c", "#b9bdbb", "#86603c"


def build() -> Assembly:
    """The whole lantern."""
    light = Assembly()
    root = light.group("Gull Rock lantern")
    for name, fill in (
        ("Tower head", _tower), ("Gallery", _gallery), ("Lantern room", _room), ("Roof", _roof),
        ("Optic", _optic), ("Access", _access), ("Fog signal", _signal),
    ):  # fmt: skip
        group = light.group(name)
        fill(light, group)
        light.put(root, group, name=name)
    _loose(light, root)
    return light


def _tower(light: Assembly, group: TDF_Label) -> None:
    drum = revolve([(1180, 0), (1560, 0), (1500, 1100), (1500, 1300), (1560, 1360), (1560, 1500), (1480, 1560), (1480, 1900), (1180, 1900)])
    doorway = box(700, 760, 1250, (-1400, 0, 60))
    light.put(group, light.part("Tower drum", cut(drum, doorway), "Masonry", WHITE, {2: BAND, 3: BAND}))
    cornice = [line((1480, 0, 1900), (1620, 0, 1900)), spline([(1620, 0, 1900), (1700, 0, 1960), (1840, 0, 2010), (1880, 0, 2080)]),
               line((1880, 0, 2080), (1480, 0, 2080)), line((1480, 0, 2080), (1480, 0, 1900))]  # fmt: skip
    light.put(group, light.part("Cornice", revolve_edges(cornice), "Masonry", WHITE))
    light.put(group, light.part("Door", fillet(box(50, 720, 1210), 8), "Masonry", TIMBER), [place(-1500, 0, 70)])
    hinge = fuse(cylinder(16, 90), box(8, 130, 60, (0, 65, 15)))
    light.put(group, light.part("Door hinge", hinge, "Ironwork", IRON), [place(-1530, -345, z) for z in (220, 640, 1060)])
    light.put(group, light.part("Door step", fillet(box(260, 980, 60), 12), "Masonry", "#b6b0a4"), [place(-1640, 0, 0)])


def _gallery(light: Assembly, group: TDF_Label) -> None:
    deck = revolve([(1480, 0), (2080, 0), (2100, 20), (2100, 70), (2080, 90), (1480, 90)])
    light.put(group, light.part("Gallery deck", deck, "Ironwork", IRON), [place(z=2080)])
    shape = [line((0, 0, 0), (0, 0, -420)), spline([(0, 0, -420), (90, 0, -260), (260, 0, -110), (520, 0, -60)]),
             line((520, 0, -60), (520, 0, 0)), line((520, 0, 0), (0, 0, 0))]  # fmt: skip
    bracket = extrude_edges(shape, (0, 50, 0))
    light.put(group, light.part("Gallery bracket", bracket, "Ironwork", IRON), around(1540, 2080, 16), "Bracket")
    bay = light.group("Railing bay")
    post = fuse(revolve([(0, 0), (42, 0), (42, 14), (20, 34), (17, 60), (17, 980), (26, 1000), (26, 1020), (0, 1020)]))
    light.put(bay, light.part("Railing post", post, "Ironwork", RAIL))
    light.put(bay, light.part("Post finial", sphere(34), "Ironwork", BRASS), [place(z=1046)])
    rod = cylinder(8, 900)
    light.put(bay, light.part("Baluster", rod, "Ironwork", RAIL), [place(-9, -170, 40), place(-17, 170, 40)])
    light.put(group, bay, around(2030, 2170, 24), "Railing bay")
    light.put(group, light.part("Hand rail", torus(2030, 24), "Ironwork", RAIL), [place(z=3150)])
    light.put(group, light.part("Toe rail", torus(2030, 14), "Ironwork", RAIL), [place(z=2230), place(z=2680)], "Toe rail")
    bolt, washer = _bolt(), revolve([(10.5, 0), (18.5, 0), (18.5, 3), (10.5, 3)])
    bolts = light.group("Deck bolting")
    light.put(bolts, light.part("Bolt M20", bolt, "Fasteners", ZINC), [p for r in (1590, 1800, 2010) for p in around(r, 2173, 48, 3.75)], "Bolt M20")
    light.put(bolts, light.part("Washer M20", washer, "Fasteners", ZINC), [p for r in (1590, 1800, 2010) for p in around(r, 2170, 48, 3.75)], "Washer M20")
    light.put(group, bolts, name="Deck bolting")


def _bolt() -> TopoDS_Shape:
    head = extrude([(16 * math.cos(a), 16 * math.sin(a), 0) for a in (math.pi / 3 * k for k in range(6))], (0, 0, 12.5))
    dome = revolve([(0, -60), (10, -60), (10, 0), (14.2, 0), (17.5, 1.5), (17.5, 9.5), (13, 12.5), (0, 12.5)])
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

    return fuse(BRepAlgoAPI_Common(head, dome).Shape(), cylinder(10, 60, (0, 0, -60)))


def _room(light: Assembly, group: TDF_Label) -> None:
    sill = revolve([(1420, 0), (1600, 0), (1600, 60), (1540, 110), (1540, 180), (1420, 180)])
    light.put(group, light.part("Sill ring", sill, "Glazing", IRON), [place(z=2170)])
    head = revolve([(1420, 0), (1540, 0), (1540, 60), (1620, 110), (1620, 170), (1420, 170)])
    light.put(group, light.part("Head ring", head, "Glazing", IRON), [place(z=4610)])
    mullion = fillet(box(90, 56, 2260), 9)
    light.put(group, light.part("Mullion", mullion, "Glazing", IRON), around(1475, 2350, 12), "Mullion")
    pane_ring = revolve([(1468, 0), (1480, 0), (1480, 1100), (1468, 1100)])
    sector = extrude([(0, 0, 0), (2000, -2000 * math.tan(math.radians(13.9)), 0), (2000, 2000 * math.tan(math.radians(13.9)), 0)], (0, 0, 1100))
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Common

    pane = light.part("Glass pane", BRepAlgoAPI_Common(pane_ring, sector).Shape(), "Glazing", GLASS)
    turns = [place(z=z, turn=15 + 30 * k) for z in (2362, 3498) for k in range(12)]
    light.put(group, pane, turns, "Glass pane")
    light.put(group, light.part("Glazing bar", revolve([(1450, 0), (1496, 0), (1496, 24), (1450, 24)]), "Glazing", IRON), [place(z=3468)])
    storm = light.part("Red sector pane", BRepAlgoAPI_Common(
        revolve([(1440, 0), (1446, 0), (1446, 1000), (1440, 1000)]), sector).Shape(), "Glazing", "#b32433")  # fmt: skip
    light.put(group, storm, [place(z=3540, turn=-135), place(z=3540, turn=-165)], "Red sector pane")


def _roof(light: Assembly, group: TDF_Label) -> None:
    outer = [(1720, 0, 0), (1640, 0, 260), (1380, 0, 620), (940, 0, 980), (460, 0, 1200), (170, 0, 1330)]
    inner = [(x - 34 if x > 200 else 130, 0, z - 14 if z else 0) for x, _, z in outer]
    inner[-1] = (130, 0, 1330)
    cupola = [spline(outer), line(outer[-1], inner[-1]), spline(inner[::-1]), line(inner[0], outer[0])]
    light.put(group, light.part("Cupola", revolve_edges(cupola), "Roof", RED), [place(z=4780)])
    rib = pipe(spline([(x + 6, 0, z + 6) for x, _, z in outer]), (1726, 0, 6), (-0.25, 0, 1), 22)
    light.put(group, light.part("Cupola rib", rib, "Roof", IRON), [place(z=4780, turn=30 * k + 15) for k in range(12)], "Cupola rib")
    gutter = [spline([(1640, 0, 0), (1690, 0, -70), (1770, 0, -90), (1850, 0, -30), (1866, 0, 40)]), line((1866, 0, 40), (1640, 0, 40)), line((1640, 0, 40), (1640, 0, 0))]
    light.put(group, light.part("Gutter", revolve_edges(gutter), "Roof", "#6f8f83"), [place(z=4770)])
    ball = [line((0, 0, 0), (170, 0, 0)), spline([(170, 0, 0), (150, 0, 60), (260, 0, 190), (240, 0, 330), (110, 0, 430), (60, 0, 520), (40, 0, 600)]),
            line((40, 0, 600), (0, 0, 600)), line((0, 0, 600), (0, 0, 0))]  # fmt: skip
    light.put(group, light.part("Vent ball", revolve_edges(ball), "Roof", RED), [place(z=6110)])
    light.put(group, light.part("Lightning rod", revolve([(0, 0), (14, 0), (10, 480), (0, 560)]), "Roof", BRASS), [place(z=6700)])
    arrow = [(-330, 0, 0), (-330, 0, 120), (-180, 0, 70), (170, 0, 70), (170, 0, 130), (360, 0, 45), (170, 0, -40), (170, 0, 20), (-180, 0, 20), (-330, 0, -30)]
    vane = fuse(extrude(arrow, (0, 8, 0)), cylinder(22, 110, (0, 4, -20)))
    light.put(group, light.part("Wind vane", vane, "Roof", BRASS), [place(z=6950, turn=35)])


def _optic(light: Assembly, group: TDF_Label) -> None:
    """A drum of glass: a belt lens in the middle, refracting rings beside it, prisms above and below."""
    belt = [line((400, 0, -170), (400, 0, 170)), line((400, 0, 170), (424, 0, 170)),
            spline([(424, 0, 170), (470, 0, 90), (486, 0, 0), (470, 0, -90), (424, 0, -170)]), line((424, 0, -170), (400, 0, -170))]  # fmt: skip
    lens = light.group("Lens")
    light.put(lens, light.part("Lens belt", revolve_edges(belt), "Optics", LENS))
    for number in range(1, 7):
        low = 176 + (number - 1) * 66
        depth, lean = 404 - number * 6, number * 9
        ring = [line((depth, 0, low), (depth + 12, 0, low + 60)), line((depth + 12, 0, low + 60), (depth + 66 - lean / 2, 0, low + 58)),
                spline([(depth + 66 - lean / 2, 0, low + 58), (depth + 78 - lean / 3, 0, low + 28), (depth + 70 - lean / 3, 0, low)]),
                line((depth + 70 - lean / 3, 0, low), (depth, 0, low))]  # fmt: skip
        part = light.part(f"Lens ring {number}", revolve_edges(ring), "Optics", LENS)
        light.put(lens, part, [place(), place(tilt=180)], f"Lens ring {number}")
    for number in range(1, 5):
        radius, low = 372 - number * 52, 574 + number * 44
        prism = revolve([(radius, low), (radius + 84, low - 14), (radius + 26, low + 52)])
        part = light.part(f"Prism ring {number}", prism, "Optics", LENS)
        light.put(lens, part, [place(), place(tilt=180)], f"Prism ring {number}")
    stay = pipe(spline([(330, 0, -620), (452, 0, -420), (500, 0, 0), (452, 0, 420), (330, 0, 620)]), (330, 0, -620), (0.55, 0, 1), 11)
    light.put(lens, light.part("Lens stay", stay, "Optics", BRASS), [place(turn=45 * k) for k in range(8)], "Lens stay")
    light.put(group, lens, [place(z=3520)], "Lens")
    crown = revolve([(90, 0), (330, 0), (340, 14), (330, 28), (90, 28)])
    light.put(group, light.part("Lens crown", crown, "Optics", BRASS), [place(z=4140), place(z=2872)], "Lens crown")
    table = revolve([(0, 0), (520, 0), (520, 50), (470, 90), (180, 110), (150, 330), (240, 420), (240, 460), (0, 460)])
    light.put(group, light.part("Pedestal", table, "Machinery", IRON), [place(z=2410)])
    bulb = [line((0, 0, 0), (30, 0, 0)), spline([(30, 0, 0), (34, 0, 60), (74, 0, 130), (78, 0, 190), (40, 0, 245), (0, 0, 258)]), line((0, 0, 258), (0, 0, 0))]
    light.put(group, light.part("Lamp", revolve_edges(bulb), "Optics", "#f3ead0"), [place(z=3420)])
    light.put(group, light.part("Lamp standard", revolve([(0, 0), (60, 0), (24, 60), (20, 500), (46, 520), (46, 550), (0, 550)]), "Machinery", BRASS), [place(z=2870)])
    clockwork = cut(fillet(box(360, 260, 320), 26), cylinder(90, 40, (150, 0, 170), (1, 0, 0)))
    light.put(group, light.part("Clockwork case", clockwork, "Machinery", "#44604f", {2: BRASS}), [place(720, 0, 2180, turn=0)])
    wheel = _gear(24, 110, 18)
    light.put(group, light.part("Drive wheel", wheel, "Machinery", BRASS), [place(900, 0, 2350, tilt=90), place(720, 0, 2512), place(560, 0, 2512, turn=7.5)], "Drive wheel")
    crank = pipe(spline([(0, 0, 0), (60, 0, 10), (80, 0, 90), (150, 0, 110), (220, 0, 108)]), (0, 0, 0), (1, 0, 0), 9)
    light.put(group, light.part("Winding crank", crank, "Machinery", STEEL), [place(905, 0, 2350)])


def _gear(teeth: int, radius: float, depth: float) -> TopoDS_Shape:
    outline = []
    for tooth in range(teeth):
        for share, reach in ((0.0, radius), (0.25, radius), (0.36, radius + 15), (0.64, radius + 15), (0.75, radius)):
            angle = 2 * math.pi * (tooth + share) / teeth
            outline.append((reach * math.cos(angle), reach * math.sin(angle), 0.0))
    wheel = extrude(outline, (0, 0, depth))
    holes = [cylinder(24, depth * 3, (66 * math.cos(a), 66 * math.sin(a), -depth)) for a in (math.pi / 3 * k for k in range(6))]
    return cut(wheel, cylinder(16, depth * 3, (0, 0, -depth)), *holes)


def _access(light: Assembly, group: TDF_Label) -> None:
    stile = pipe(spline([(0, 0, 0), (0, 0, 900), (0, 0, 1900), (-60, 40, 2350), (-330, 60, 2560)]), (0, 0, 0), (0, 0, 1), 20)
    light.put(group, light.part("Ladder stile", stile, "Access", RAIL), [place(0, 1640 + 190, 0, turn=90)], "Ladder stile left")
    side = light.part("Ladder grip", fuse(cylinder(17, 420), torus(60, 14)), "Access", RAIL)
    light.put(group, side, [place(-190, 1830, 1400)], "Ladder grip left")
    light.put(group, side, [place(190, 1830, 1400)], "Ladder grip right", colour=BRASS)
    bracket = extrude([(0, 0, 0), (160, 0, 0), (160, 0, 18), (60, 0, 30), (18, 0, 120), (0, 0, 120)], (0, 36, 0))
    part = light.part("Stile bracket", fuse(bracket, cylinder(9, 30, (110, 18, 10))), "Access", IRON, {0: BRASS})
    light.put(group, part, [place(120, 1500, 600, turn=90)], "Stile bracket left")
    light.put(group, part, [place(-120, 1500, 600, turn=90)], "Stile bracket right")
    rung = cylinder(14, 380, (-190, 0, 0), (1, 0, 0))
    light.put(group, light.part("Ladder rung", rung, "Access", RAIL), [place(0, 1830, 260 + 230 * k) for k in range(8)], "Rung")


def _signal(light: Assembly, group: TDF_Label) -> None:
    bell = [spline([(300, 0, 0), (252, 0, 90), (200, 0, 240), (176, 0, 360), (90, 0, 440), (0, 0, 452)]), line((0, 0, 452), (0, 0, 424)),
            spline([(0, 0, 424), (80, 0, 410), (150, 0, 340), (176, 0, 230), (222, 0, 88), (262, 0, 0)]), line((262, 0, 0), (300, 0, 0))]  # fmt: skip
    light.put(group, light.part("Fog bell", revolve_edges(bell), "Machinery", BRASS), [place(0, -1960, 2480)])
    arch = pipe(spline([(-340, 0, 0), (-340, 0, 480), (-180, 0, 650), (0, 0, 690), (180, 0, 650), (340, 0, 480), (340, 0, 0)]), (-340, 0, 0), (0, 0, 1), 26)
    light.put(group, light.part("Bell arch", arch, "Machinery", IRON), [place(0, -1960, 2300)])
    clapper = fuse(cylinder(10, 330), sphere(46))
    light.put(group, light.part("Clapper", clapper, "Machinery", STEEL), [place(0, -1960, 2560)])


def _loose(light: Assembly, root: TDF_Label) -> None:
    """What every real file has too: parts without colour or layer, some without a name, stray curves."""
    cowl = fuse(cylinder(90, 220), fillet(box(300, 300, 40, (0, 0, 220)), 14))
    light.put(root, light.part("Vent cowl", cowl), [place(1100, 500, 2180)])
    light.put(root, light.part("Chart hook", pipe(spline([(0, 0, 0), (40, 0, -10), (60, 0, 30), (30, 0, 60)]), (0, 0, 0), (1, 0, 0), 5)), around(1400, 3450, 4, 8), "Chart hook")
    light.put(root, light.part("Spare pane clip", chamfer(box(60, 24, 6), 1.5)), [place(1000, -700, 2182)])
    for number, shape in enumerate((cylinder(60, 140), fillet(box(180, 120, 90), 10), sphere(45, (0, 0, 45)))):
        light.put(root, light.part("", shape), [place(-950 + 220 * number, 780, 2180)])
    strays = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(strays)
    for start, end in (((0, 0, 3520), (3000, 0, 3520)), ((0, 0, 3520), (0, 3000, 3520)), ((0, 0, 0), (0, 0, 7300))):
        builder.Add(strays, line(start, end))
    builder.Add(strays, spline([(2400, 0, 0), (2500, 900, 0), (1800, 2200, 0), (0, 2600, 0)]))
    light.put(root, light.part("Survey lines", strays, "Construction"))
