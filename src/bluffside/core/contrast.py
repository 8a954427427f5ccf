"""How well one colour can be told from another, for words (WCAG 2.2). Colours are #rrggbb."""


def contrast(one: str, other: str) -> float:
    """The contrast ratio of two colours (WCAG 2.2, definition of contrast ratio)."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (one / 12.92 if one <= 0.04045 else ((one + 0.055) / 1.055) ** 2.4 for one in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue
