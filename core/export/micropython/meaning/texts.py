# Texts: values as people read them, and what stands on a display.


def fixed(x, decimals):
    # With so many decimals, halves away from zero.
    if x < 0:
        text = fixed(-x, decimals)
        return "-" + text
    scale = 10**decimals
    whole = int(rounded(x * scale))
    if decimals == 0:
        return str(whole)
    text = str(whole % scale)
    return str(whole // scale) + "." + "0" * (decimals - len(text)) + text


def trimmed(text):
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def plain(x):
    if x != x:
        return "NaN"
    if x == INF:
        return "no echo"
    if x == -INF:
        return "-Infinity"
    return trimmed(fixed(x, 3))


def exact(x):
    # To a millionth.
    return "Infinity" if x == INF else "-Infinity" if x == -INF else trimmed(fixed(x, 6))


def quantity(x, scale, unit, never="no echo"):
    # With as many digits as are useful.
    if x == INF:
        return never
    x = x / scale
    size = abs(x)
    return trimmed(fixed(x, 0 if size >= 100 else 1 if size >= 10 else 2)) + " " + unit


def in_steps(x, step, decimals, scale, unit, never="no echo"):
    if x == INF:
        return never
    text = fixed(rounded(x / step) * step / scale, decimals)
    if text[0] == "-" and not text.strip("-0."):
        text = text[1:]
    return text + unit


def yes_or_no(x):
    return "true" if x != 0 else "false"


def color_name(x, names):
    # By its number.
    i = int(x) if x == x and -1 < x < len(names) else -1
    return names[i] if i >= 0 and i == x else "none"


class Screen:
    # A display: its lines from the top, each a text and whether it is large, or None; or the name of a picture.
    def __init__(self, device, columns, lines):
        self.device = device
        self.columns = columns
        self.rows = lines
        self.picture = None
        self.lines = []
        self.said = ""
        now.screens += (self,)

    def say(self):
        # At the end of a tick, where something else stands there than at its beginning.
        text = screen_text(self)
        if text != self.said:
            self.said = text
            tell("show", self.device.name, text)

    def change(self, picture, lines):
        while lines and lines[-1] is None:
            lines.pop()
        self.picture = picture
        self.lines = lines
        self.device.told[0] = 0.0 if picture is None and not lines else 1.0

    def fill(self, text, large):
        columns = self.columns // 2 if large else self.columns
        rows = []
        for word in text.split(" "):
            if rows and len(rows[-1]) + 1 + len(word) <= columns:
                rows[-1] += " " + word
                continue
            at = 0
            while at == 0 or at < len(word):
                rows.append(word[at : at + columns])
                at += columns
        lines = []
        for row in rows:
            lines.append(None if row == "" else (row, large))
            if large:
                lines.append(None)
        self.change(None, lines[: self.rows])

    def put(self, at, text, large):
        lines = self.lines + [None] * (self.rows - len(self.lines))
        i = at - 1
        if i > 0 and lines[i - 1] is not None and lines[i - 1][1]:
            lines[i - 1] = None
        if large and i + 1 < len(lines):
            lines[i + 1] = None
        text = text[: self.columns // 2 if large else self.columns]
        lines[i] = None if text == "" else (text, large)
        self.change(self.picture, lines)


def screen_text(screen):
    parts = ["\x02" + screen.picture] if screen.picture is not None else []
    for line in screen.lines:
        parts.append("" if line is None else ("\x01" if line[1] else "") + line[0])
    return "\n".join(parts)


class Showing(Motion):
    def __init__(self, line, screen):
        super().__init__(line, screen.device)
        self.screen = screen


class Show(Showing):
    def __init__(self, line, screen, text, large=False, at=None):
        super().__init__(line, screen)
        self.text = text
        self.large = large
        self.at = at

    def apply(self):
        screen = self.screen
        if self.at is None:
            screen.fill(self.text(), self.large)
            return
        wanted = self.at()
        at = min(screen.rows, max(1, rounded(wanted))) if wanted == wanted else 1
        if not abs(at - wanted) < 0.5:
            clip(screen.device)
        screen.put(int(at), self.text(), self.large)


class ShowPicture(Showing):
    def __init__(self, line, screen, picture):
        super().__init__(line, screen)
        self.picture = picture

    def apply(self):
        self.screen.change(self.picture, [])


class Clear(Showing):
    def apply(self):
        self.screen.change(None, [])
