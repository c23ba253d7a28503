# Writes the inkscape-*.svg files and outlines.json: drawings that Inkscape wrote, from Debian's package openclipart-svg
# (given to the public domain by who drew them), and where their outlines lie by librsvg, an interpreter of its own.
# Needs dpkg-deb and rsvg-convert. What says who drew one and in which folder is left out; the rest is as it was.
#
#   apt-get download openclipart-svg && python3 inkscape.py openclipart-svg_*.deb
import json, os, re, subprocess, sys, tempfile
import xml.etree.ElementTree as tree

DRAWINGS = {
    'entry': 'transportation/no_entry.svg',
    'hazard': 'signs_and_symbols/biohazard_01.svg',
    'ball': 'recreation/toys/ball.svg',
    'smoke': 'signs_and_symbols/no_smoking_sign_domas_jo_01.svg',
    'arrow': 'shapes/arrows/cursor_arrow_martin_koz__02.svg',
    'ribbon': 'unsorted/fiocco.svg',
    'toque': 'food/toque_01.svg',
    'twinkle': 'people/smilies/smileytwinkle_nicolas_ga_01.svg',
}
PX_PER_INCH = 90  # of these versions of Inkscape
PIECES = 16  # of a curve
SVG = '{http://www.w3.org/2000/svg}'


def numbers(text):
    return [float(one) for one in re.findall(r'-?\d*\.?\d+(?:e[-+]?\d+)?', text)]


def outlines(node, matrix, mm):
    """Lines of points, mm from the upper left, of all that librsvg draws below a node."""
    if node.tag == SVG + 'defs':
        return
    a, b, c, d, e, f = matrix
    if node.get('transform'):
        p, q, r, s, t, u = numbers(node.get('transform'))
        matrix = a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f
        a, b, c, d, e, f = matrix
    place = lambda x, y: [round((a * x + c * y + e) * mm, 2), round((b * x + d * y + f) * mm, 2)]
    if node.tag == SVG + 'rect':
        x, y, w, h = (float(node.get(key, 0)) for key in ('x', 'y', 'width', 'height'))
        yield [place(*at) for at in ((x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y))]
    if node.tag == SVG + 'path':
        line, at = [], (0, 0)
        for letter, text in re.findall(r'([MLCZ])([^MLCZ]*)', node.get('d', '')):
            n = numbers(text)
            if letter == 'M':
                if len(line) > 1:
                    yield line
                line, first = [place(*n)], n
            elif letter == 'L':
                line.append(place(*n))
            elif letter == 'C':
                for i in range(1, PIECES + 1):
                    t, v = i / PIECES, 1 - i / PIECES
                    weights = v * v * v, 3 * v * v * t, 3 * v * t * t, t * t * t
                    points = list(at), n[0:2], n[2:4], n[4:6]
                    line.append(place(*(sum(w * point[k] for w, point in zip(weights, points)) for k in (0, 1))))
            else:
                line.append(line[0])
                n = first
            at = tuple(n[-2:])
        if len(line) > 1:
            yield line
    for child in node:
        yield from outlines(child, matrix, mm)


here = os.path.dirname(os.path.abspath(__file__))
found = {}
with tempfile.TemporaryDirectory() as folder:
    subprocess.run(['dpkg-deb', '-x', sys.argv[1], folder], check=True)
    for name, file in DRAWINGS.items():
        with open(os.path.join(folder, 'usr/share/openclipart/svg', file), encoding='utf8') as source:
            text = source.read()
        text = re.sub(r'<metadata\b.*?</metadata>', '', text, flags=re.S)
        text = re.sub(r'\s(?:sodipodi:doc\w+|inkscape:export-filename)="[^"]*"', '', text)
        target = os.path.join(here, f'inkscape-{name}.svg')
        with open(target, 'w', encoding='utf8') as out:
            out.write(text.replace('\r\n', '\n'))
        dpi = str(PX_PER_INCH)
        drawn = subprocess.run(
            ['rsvg-convert', '-f', 'svg', '--dpi-x', dpi, '--dpi-y', dpi, target], check=True, capture_output=True
        ).stdout
        root = tree.fromstring(drawn)
        mm = 25.4 / PX_PER_INCH
        size = [round(float(root.get(key)) * mm, 2) for key in ('width', 'height')]
        lines = [line for line in outlines(root, (1, 0, 0, 1, 0, 0), mm)]
        found[f'inkscape-{name}.svg'] = {'sizeMm': size, 'outlinesMm': lines}
with open(os.path.join(here, 'outlines.json'), 'w', encoding='utf8') as out:
    json.dump(found, out, separators=(',', ':'))
    out.write('\n')
