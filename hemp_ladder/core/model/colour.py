"""Colours in sRGB."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Colour:
    """An sRGB colour with opacity, each channel 0 to 1."""

    red: float
    green: float
    blue: float
    alpha: float = 1.0

    @staticmethod
    def from_linear(red: float, green: float, blue: float, alpha: float = 1.0) -> "Colour":
        """Encode linear RGB with the sRGB transfer function (IEC 61966-2-1)."""

        def encode(value: float) -> float:
            value = min(max(value, 0.0), 1.0)
            return 12.92 * value if value <= 0.0031308 else 1.055 * value ** (1 / 2.4) - 0.055

        return Colour(encode(red), encode(green), encode(blue), min(max(alpha, 0.0), 1.0))

    @staticmethod
    def from_hex(text: str) -> "Colour":
        """`#rrggbb` or `#rrggbbaa`."""
        digits = text.removeprefix("#")
        values = [int(digits[i : i + 2], 16) / 255 for i in range(0, len(digits), 2)]
        return Colour(*values)

    @property
    def hex(self) -> str:
        """`#rrggbb`, with two more digits when it is not opaque."""
        shown = [self.red, self.green, self.blue] + ([self.alpha] if self.alpha < 1 else [])
        return "#" + "".join(f"{round(value * 255):02x}" for value in shown)

    @property
    def linear(self) -> tuple[float, float, float]:
        """The three channels decoded to linear light."""

        def decode(value: float) -> float:
            return value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4

        return decode(self.red), decode(self.green), decode(self.blue)


WHITE = Colour(1.0, 1.0, 1.0)
BLACK = Colour(0.0, 0.0, 0.0)
