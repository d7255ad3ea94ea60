#!/usr/bin/env python3
"""Draws the apiary's pixel art (keeper, smoker, hornets, hive) into the folder of this script. Needs nothing but Python."""
import math
import os
import struct
import zlib

# Ramps from shadow to light; the light comes from the top left.
SUIT = [(120, 104, 98), (178, 162, 138), (222, 208, 176), (244, 236, 212)]
STRAW = [(112, 74, 32), (168, 120, 50), (214, 166, 80), (242, 208, 128)]
VEIL = [(48, 52, 70), (66, 72, 92), (92, 100, 120), (128, 136, 154)]
SKIN = [(150, 92, 70), (196, 138, 104), (228, 176, 138), (246, 206, 172)]
LEATHER = [(76, 44, 28), (118, 72, 40), (160, 104, 58), (196, 142, 86)]
BOOT = [(38, 30, 36), (62, 48, 48), (92, 70, 62), (124, 98, 82)]
WOOD = [(84, 56, 34), (124, 86, 50), (164, 120, 74), (198, 158, 108)]
STEEL = [(60, 68, 78), (98, 110, 120), (146, 158, 164), (204, 212, 212)]
MESH = [(150, 168, 160), (182, 198, 186), (210, 222, 208), (232, 240, 228)]
SMOKE = [(120, 122, 134), (164, 166, 174), (200, 202, 206), (230, 230, 232)]
EMBER = [(150, 52, 20), (214, 96, 28), (246, 160, 54), (255, 220, 130)]
AMBER = [(140, 78, 16), (204, 130, 24), (244, 184, 44), (255, 222, 110)]
MOSS = [(56, 84, 40), (92, 132, 52), (142, 180, 72), (196, 220, 120)]
CHITIN = [(34, 26, 34), (54, 42, 48), (82, 66, 66), (116, 96, 90)]
WING = [(150, 176, 200), (184, 206, 222), (212, 228, 238), (238, 246, 250)]
DARK = [(16, 12, 18), (24, 18, 26), (32, 24, 34), (40, 30, 42)]
OUTLINE = (36, 28, 40)

KEEPER_TILE = (48, 40)
SMOKER_TILE = (24, 28)
HORNET_TILE = (32, 28)
HIVE_TILE = (40, 56)
PUFF_TILE = (16, 16)


class Sprite:
    """A small canvas; shapes are shaded by where they face."""

    def __init__(self, width, height, left, top):
        self.width, self.height = width, height
        self.left, self.top = left, top  # room around the figure's own coordinates
        self.pixels = {}

    def put(self, x, y, color, alpha=255):
        if 0 <= x + self.left < self.width and 0 <= y + self.top < self.height:
            self.pixels[(x, y)] = (*color, alpha)

    @staticmethod
    def shade(ramp, facing):
        step = 0 if facing < -0.45 else 1 if facing < 0.05 else 2 if facing < 0.6 else 3
        return ramp[step]

    def ellipse(self, cx, cy, rx, ry, ramp, alpha=255):
        for y in range(math.floor(cy - ry), math.ceil(cy + ry) + 1):
            for x in range(math.floor(cx - rx), math.ceil(cx + rx) + 1):
                u, v = (x + 0.5 - cx) / rx, (y + 0.5 - cy) / ry
                if u * u + v * v <= 1:
                    self.put(x, y, self.shade(ramp, -0.6 * u - 0.8 * v), alpha)

    def limb(self, x1, y1, x2, y2, r1, r2, ramp):
        """A tapering stroke from one round end to another."""
        dx, dy = x2 - x1, y2 - y1
        length = math.hypot(dx, dy) or 1
        reach = max(r1, r2) + 1
        for y in range(math.floor(min(y1, y2) - reach), math.ceil(max(y1, y2) + reach) + 1):
            for x in range(math.floor(min(x1, x2) - reach), math.ceil(max(x1, x2) + reach) + 1):
                px, py = x + 0.5 - x1, y + 0.5 - y1
                t = max(0, min(1, (px * dx + py * dy) / (length * length)))
                radius = r1 + (r2 - r1) * t
                ox, oy = px - t * dx, py - t * dy
                if math.hypot(ox, oy) <= radius:
                    self.put(x, y, self.shade(ramp, (-0.6 * ox - 0.8 * oy) / radius))

    def outline(self):
        edge = set()
        for (x, y), pixel in self.pixels.items():
            if pixel[3] < 255:
                continue
            for ox, oy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                spot = (x + ox, y + oy)
                if self.pixels.get(spot, (0, 0, 0, 0))[3] < 255:
                    edge.add(spot)
        for x, y in edge:
            self.put(x, y, OUTLINE)


def leg(sprite, hip, angle, bend, ground, ramp):
    """A leg of two parts; `angle` swings it forwards, `bend` lifts the foot."""
    thigh, shin = 4.4, 4.6
    knee = (hip[0] + math.sin(angle) * thigh, hip[1] + math.cos(angle) * thigh)
    foot = (knee[0] + math.sin(angle - bend) * shin, min(ground - 1.2, knee[1] + math.cos(angle - bend) * shin))
    sprite.limb(*hip, *knee, 2.1, 1.9, ramp)
    sprite.limb(*knee, *foot, 1.9, 1.6, ramp)
    sprite.limb(foot[0] - 0.4, foot[1] + 0.2, foot[0] + 1.8, foot[1] + 0.4, 1.4, 1.2, BOOT)


def arm(sprite, shoulder, angle, bend, ramp):
    elbow = (shoulder[0] + math.sin(angle) * 3.4, shoulder[1] + math.cos(angle) * 3.4)
    hand = (elbow[0] + math.sin(angle + bend) * 3.4, elbow[1] + math.cos(angle + bend) * 3.4)
    sprite.limb(*shoulder, *elbow, 1.8, 1.6, ramp)
    sprite.limb(*elbow, *hand, 1.6, 1.3, ramp)
    sprite.ellipse(*hand, 1.5, 1.5, LEATHER)
    return hand


def net(sprite, hand, angle, open_=1.0):
    """The pole from the hand outwards, a hoop at its end, and the bag behind it."""
    ux, uy = math.sin(angle), math.cos(angle)
    tip = (hand[0] + ux * 7.5, hand[1] + uy * 7.5)
    sprite.limb(hand[0] - ux * 2.5, hand[1] - uy * 2.5, *tip, 0.7, 0.7, WOOD)
    bag = (tip[0] + ux * 2.4 - uy * 1.2 * open_, tip[1] + uy * 2.4 + ux * 1.2 * open_)
    sprite.ellipse(*bag, 3.4, 2.9, MESH, 170)
    for k in range(40):
        a = k * math.tau / 40
        x = tip[0] + ux * (2.6 + 2.6 * math.cos(a)) - uy * 2.2 * open_ * math.sin(a)
        y = tip[1] + uy * (2.6 + 2.6 * math.cos(a)) + ux * 2.2 * open_ * math.sin(a)
        sprite.put(math.floor(x), math.floor(y), STEEL[3 if math.sin(a) < 0.2 else 1])


def head(sprite, x, y, tilt=0.0, pale=False):
    sprite.ellipse(x + 0.4, y, 3.5, 3.7, SKIN)
    sprite.ellipse(x + 0.9, y + 1.0, 3.3, 3.4, VEIL, 215)
    if not pale:
        sprite.put(math.floor(x + 2), math.floor(y - 0.2), (30, 26, 34))
    dy = math.sin(tilt) * 2.2
    sprite.limb(x - 5.6, y - 2.6 + dy, x + 6.2, y - 2.6 - dy, 1.1, 1.1, STRAW)
    sprite.ellipse(x + 0.2, y - 4.4, 3.5, 2.6, STRAW)
    sprite.limb(x - 2.6, y - 3.2 + dy * 0.4, x + 3.0, y - 3.2 - dy * 0.4, 0.6, 0.6, BOOT)


def keeper(dy=0.0, lean=0.0, legs=((0.12, 0.1), (-0.12, 0.1)), arms=((0.25, 0.4), (-0.2, 0.3)), swing=None, tilt=0.0,
           pale=False, ground=30):
    sprite = Sprite(*KEEPER_TILE, 6, 8)
    hip = (15.4 + lean * 0.2, 20.6 + dy)
    chest = (15.6 + lean, 15.2 + dy)
    leg(sprite, (hip[0] - 0.4, hip[1]), *legs[1], ground, SUIT[:1] + SUIT[:3])
    back = arm(sprite, (chest[0] - 0.8, chest[1] - 0.6), *arms[1], SUIT[:1] + SUIT[:3])
    if swing is not None and swing[2]:
        net(sprite, back, *swing[:2])
    leg(sprite, (hip[0] + 0.6, hip[1]), *legs[0], ground, SUIT)
    sprite.limb(*hip, *chest, 3.7, 3.9, SUIT)
    sprite.limb(hip[0] - 3, hip[1] - 0.6, hip[0] + 3, hip[1] - 0.6, 0.6, 0.6, LEATHER)
    head(sprite, chest[0] + 0.4 + lean * 0.3, chest[1] - 6.4, tilt, pale)
    hand = arm(sprite, (chest[0] + 0.8, chest[1] - 0.6), *arms[0], SUIT)
    if swing is not None and not swing[2]:
        net(sprite, hand, *swing[:2])
    sprite.outline()
    return sprite


def fallen(turn, drop):
    """From kneeling to lying: the body turns backwards around the feet."""
    sprite = Sprite(*KEEPER_TILE, 6, 8)
    hip = (16.5 - turn * 0.6, 23.0 + drop * 3.6)
    chest = (hip[0] - math.sin(turn) * 6.4, hip[1] - math.cos(turn) * 5.6 + drop * 0.6)
    sprite.limb(hip[0], hip[1], hip[0] + 5.2, min(27.6, hip[1] + 2.2), 2.2, 1.9, SUIT)
    sprite.limb(hip[0] + 5.2, min(27.6, hip[1] + 2.2), hip[0] + 8.4, 28.2, 1.8, 1.6, SUIT)
    sprite.limb(hip[0] + 8.4, 28.2, hip[0] + 9.6, 27.4, 1.5, 1.3, BOOT)
    sprite.limb(*hip, *chest, 3.6, 3.8, SUIT)
    arm(sprite, (chest[0] + 1, chest[1]), 0.9 + turn * 0.3, 0.2, SUIT)
    head(sprite, chest[0] - math.sin(turn) * 5.4, chest[1] - math.cos(turn) * 6.0 - drop * 0.4, turn * 0.25, True)
    sprite.outline()
    return sprite


def keeper_frames():
    frames = {}
    for i, breath in enumerate((0.0, 0.25, 0.6, 0.9)):
        frames[i] = keeper(dy=breath * 0.8, arms=((0.25 + breath * 0.08, 0.4), (-0.2 - breath * 0.08, 0.3)))
    for i in range(6):
        a = i * math.tau / 6
        stride = math.sin(a)
        bob = -abs(math.cos(a)) * 1.1 + 0.5
        frames[8 + i] = keeper(dy=bob, lean=0.8,
                               legs=((0.75 * stride, 0.15 + 0.75 * max(0, -math.cos(a))),
                                     (-0.75 * stride, 0.15 + 0.75 * max(0, math.cos(a)))),
                               arms=((-0.6 * stride, 0.5), (0.6 * stride, 0.5)))
    swings = ((-1.0, -2.5, 0.5, -0.8), (-2.2, -2.9, 0.7, -1.4), (2.4, 2.7, 0.9, 1.0), (1.25, 1.45, 1.0, 2.4),
              (0.8, 1.0, 0.8, 1.8), (0.5, 0.7, 0.6, 0.6))
    for i, (shoulder, pole, open_, lean) in enumerate(swings):
        frames[16 + i] = keeper(dy=0.3 if i in (3, 4) else 0, lean=lean,
                                legs=((0.45 if lean > 1.5 else 0.2, 0.2), (-0.45 if lean > 1.5 else -0.25, 0.1)),
                                arms=((shoulder, 0.15), (-0.5, 0.6)), swing=(pole, open_, False), tilt=-0.1 * lean)
    hops = ((2.4, 0.9, 30), (-0.5, 0.0, 29), (-4.2, -0.2, 25), (-2.2, 0.1, 28), (1.9, 0.5, 30))
    for i, (dy, bend, ground) in enumerate(hops):
        air = i in (2, 3)
        frames[24 + i] = keeper(dy=dy, lean=0.5 if i != 2 else 1.2, ground=ground,
                                legs=((0.6 if bend > 0.4 else 0.25, 1.0 + bend if bend > 0.4 or air else 0.2),
                                      (0.3 if bend > 0.4 else -0.35, 1.0 + bend if bend > 0.4 or air else 0.3)),
                                arms=((1.9 if air else 0.6, 0.3), (-1.7 if air else -0.5, -0.2)))
    for i, (lean, dy) in enumerate(((-1.0, 0.2), (-2.6, 0.6), (-1.2, 0.4))):
        frames[32 + i] = keeper(dy=dy, lean=lean, legs=((0.5, 0.2), (-0.15, 0.4)), tilt=0.35,
                                arms=((1.7 - 0.2 * i, 0.5), (-1.6 + 0.2 * i, -0.4)), pale=True)
    frames[40] = keeper(dy=0.6, lean=-0.8, tilt=0.3, arms=((0.2, 0.1), (-0.1, 0.1)), pale=True)
    frames[41] = keeper(dy=2.4, lean=-1.6, legs=((0.9, 1.7), (0.5, 1.6)), tilt=0.4, arms=((0.1, 0), (-0.1, 0)), pale=True)
    for i, (turn, drop) in enumerate(((0.5, 0.1), (0.95, 0.5), (1.35, 0.95), (1.5, 1.05))):
        frames[42 + i] = fallen(turn, drop)
    return frames


def smoker_frames():
    frames = {}
    for i in range(8):
        squeeze = (0.0, 0.25, 0.55, 0.85, 1.0, 1.0, 0.6, 0.25)[i]
        sprite = Sprite(*SMOKER_TILE, 0, 4)
        fold = 3.4 - 2.0 * squeeze
        sprite.limb(5.6 - fold * 0.3, 11.6 + squeeze, 5.6 - fold * 0.3, 19.6, fold * 0.8, fold * 0.8, LEATHER)
        for rib in range(3):
            sprite.limb(5.6 - fold, 12.6 + squeeze + rib * 2.6, 6.2, 12.8 + squeeze + rib * 2.6, 0.5, 0.5, BOOT)
        sprite.limb(2.6 + 2.4 * squeeze, 10.4, 3.2 + 2.0 * squeeze, 20.4, 0.9, 0.9, WOOD)
        sprite.limb(11.6, 12.2, 11.6, 19.6, 4.1, 4.1, STEEL)
        sprite.limb(8.4, 18.8, 14.8, 18.8, 0.6, 0.6, STEEL[:2] + STEEL[:2])
        sprite.ellipse(11.6, 16.4, 1.6, 1.2, EMBER if squeeze > 0.5 else EMBER[:1] + EMBER[:3])
        sprite.limb(11.6, 9.4, 13.0, 6.6, 3.0, 1.3, STEEL)
        sprite.outline()
        if i >= 4:
            age = i - 4
            for k, (ox, oy, r) in enumerate(((1.4, -2.2, 1.5), (3.2, -2.8, 1.2), (2.2, -4.2, 1.3))[: 1 + min(age, 2)]):
                sprite.ellipse(13.4 + ox + age * 0.5, 6.0 + oy - age * 0.5, r + age * 0.25, r + age * 0.2, SMOKE, 235 - age * 35)
        frames[i] = sprite
    return frames


def puff_frames():
    frames = {}
    for i in range(6):
        sprite = Sprite(*PUFF_TILE, 8, 8)
        for ox, oy, r in ((0.0, 0.0, 2.0), (1.6, -1.0, 1.5), (-1.4, -1.2, 1.6))[: 1 + min(i, 2)]:
            sprite.ellipse(ox * (1 + i * 0.25), oy * (1 + i * 0.25), r + i * 0.45, r + i * 0.4, SMOKE, 230 - i * 34)
        frames[i] = sprite
    return frames


def hornet(ramp, dy=0.0, tilt=0.0, legs=0.3, sting=0.0, dazed=False):
    """Flies to the right; `tilt` turns it nose down, `sting` bends the abdomen forwards."""
    sprite = Sprite(*HORNET_TILE, 4, 6)
    cx, cy = 12.0, 9.0 + dy
    ux, uy = math.cos(tilt), math.sin(tilt)

    def at(along, across):
        return (cx + ux * along - uy * across, cy + uy * along + ux * across)

    # The abdomen in rings from the waist to the sting.
    bend = tilt - sting
    for k in range(6):
        t = k / 5
        turn = math.pi + tilt + (bend - tilt) * t * 1.2
        x = cx - ux * 2.6 + math.cos(turn) * (0.6 + 6.2 * t)
        y = cy - uy * 2.6 + math.sin(turn) * (0.6 + 6.2 * t) + 1.2 * t
        sprite.ellipse(x, y, 1.9, 1.2 + 2.6 * math.sin(math.pi * (0.12 + 0.78 * t)) ** 0.8, CHITIN if k % 2 else ramp)
    end = math.pi + bend - 0.2 * sting
    tip = (x + math.cos(end) * 3.2, y + math.sin(end) * 3.2 + 0.6)
    sprite.limb(x, y, *tip, 0.8, 0.4, DARK)
    sprite.ellipse(*at(1.4, -0.2), 3.0, 2.7, CHITIN)
    sprite.ellipse(*at(1.2, -1.2), 1.9, 1.2, ramp)
    face = at(5.0, 0.6)
    sprite.ellipse(*face, 2.4, 2.6, ramp)
    eye = at(5.8, -0.2)
    sprite.ellipse(*eye, 1.3, 1.4, SMOKE if dazed else DARK)
    if not dazed:
        sprite.put(math.floor(eye[0]), math.floor(eye[1] - 0.6), (255, 244, 220))
    sprite.outline()
    # Feelers and legs are thinner than an outline.
    for side in (0.0, 1.0):
        root = at(6.4, -1.8)
        thin(sprite, root, (root[0] + 1.6 + side, root[1] - 2.6 + side))
    for k in range(3):
        hip = at(0.2 + k * 1.6, 2.6)
        knee = (hip[0] + (k - 1) * 1.2 + legs, hip[1] + 1.6)
        thin(sprite, hip, knee)
        thin(sprite, knee, (knee[0] - 0.9 + legs, knee[1] + 2.0 + 0.6 * legs))
    return sprite


def thin(sprite, begin, end):
    steps = max(1, math.ceil(2 * max(abs(end[0] - begin[0]), abs(end[1] - begin[1]))))
    for k in range(steps + 1):
        t = k / steps
        sprite.put(math.floor(begin[0] + (end[0] - begin[0]) * t), math.floor(begin[1] + (end[1] - begin[1]) * t), OUTLINE)


def wings(spread):
    """A pair of wings alone, to lie over the body; their roots are where the hornet's back is."""
    sprite = Sprite(*HORNET_TILE, 4, 6)
    for length, turn, alpha in ((8.4, 0.0, 150), (7.2, 0.35, 120)):
        angle = -2.35 + turn + spread
        for k in range(10):
            t = k / 9
            x, y = 12.4 + math.cos(angle) * length * t, 7.2 + math.sin(angle) * length * t
            r = 0.5 + 1.9 * math.sin(math.pi * min(1, 0.15 + t * 0.8))
            sprite.ellipse(x, y, r, r * 0.8, WING, alpha)
    return sprite


def hornet_frames(ramp):
    frames = {}
    for i in range(4):  # hover
        frames[i] = hornet(ramp, dy=math.sin(i * math.tau / 4) * 1.2, legs=0.3 + 0.2 * math.cos(i * math.tau / 4))
    for i, (tilt, dy) in enumerate(((-0.35, -0.6), (-0.5, -1.2), (-0.2, -0.4))):  # notice
        frames[8 + i] = hornet(ramp, dy=dy, tilt=tilt, legs=0.8)
    dives = ((0.35, -1, 0.2), (0.55, 0, 0.5), (0.6, 0, 1.0), (0.4, 0.5, 1.5), (0.1, 0.5, 1.1), (-0.15, 0, 0.4))
    for i, (tilt, dy, sting) in enumerate(dives):
        frames[16 + i] = hornet(ramp, dy=dy, tilt=tilt, sting=sting, legs=-0.3)
    for i in range(4):  # stunned
        frames[24 + i] = hornet(ramp, dy=2.5 + (i % 2) * 0.8, tilt=0.25 * math.sin(i * math.tau / 4), legs=1.2, dazed=True)
    for i, (tilt, dy) in enumerate(((0.4, 1), (0.9, 2.5), (0.5, 5), (0.05, 6.4))):  # fall
        frames[32 + i] = hornet(ramp, dy=dy, tilt=tilt, legs=1.0, dazed=True)
    for i, spread in enumerate((-0.35, 0.15, 0.7, 0.15)):  # the wings of their own region
        frames[40 + i] = wings(spread)
    return frames


def hive_frames():
    frames = {}
    for i in range(6):
        lift = i / 5
        sprite = Sprite(*HIVE_TILE, 4, 22)
        for x in (5.0, 27.0):
            sprite.limb(x, 29, x, 32, 1.4, 1.2, WOOD)
        for row in range(3):
            y = 9.0 + row * 7.2
            sprite.limb(4.4, y + 3, 27.6, y + 3, 3.5, 3.5, STRAW if row % 2 else WOOD)
            sprite.limb(3.0, y + 6.2, 29.0, y + 6.2, 0.5, 0.5, WOOD[:1] * 3 + WOOD[:1])
        sprite.ellipse(16, 26.4, 3.2, 1.3, DARK)
        # The lid turns about its left end; below it the combs show.
        if lift > 0.1:
            for k in range(5):
                sprite.limb(7 + k * 4.5, 8.8, 7 + k * 4.5, 7.6 - lift * 1.2, 1.2, 1.2, AMBER)
        angle = -1.15 * lift
        end = (3.0 + math.cos(angle) * 26, 6.2 + math.sin(angle) * 26)
        sprite.limb(3.0, 6.2, *end, 1.9, 1.9, STEEL)
        sprite.ellipse(3.0 + math.cos(angle) * 13 + math.sin(angle) * 2.4,
                       6.2 + math.sin(angle) * 13 - math.cos(angle) * 2.4, 1.6, 1.2, WOOD)
        sprite.outline()
        if i >= 4:
            for k, (x, y) in enumerate(((14, -2), (21, 1), (26, -5))[: i - 2]):
                sprite.ellipse(x, y, 1.4, 1.0, AMBER)
                sprite.ellipse(x - 0.6, y - 1.2, 1.0, 0.6, WING, 180)
        frames[i] = sprite
    return frames


def faded(pixel):
    """A pixel of the same figure, pale with weakness."""
    grey = (pixel[0] * 3 + pixel[1] * 4 + pixel[2]) // 8
    return tuple((part + 2 * grey + 3 * cool) // 6 for part, cool in zip(pixel[:3], (196, 206, 222))) + (pixel[3],)


def write_sheet(path, frames, tile, columns, rows, tint=tuple):
    width, height = columns * tile[0], rows * tile[1]
    data = bytearray(width * height * 4)
    for number, sprite in frames.items():
        left = number % columns * tile[0] + sprite.left
        top = number // columns * tile[1] + sprite.top
        for (x, y), pixel in sprite.pixels.items():
            at = ((top + y) * width + left + x) * 4
            data[at:at + 4] = bytes(tint(pixel))
    rows_of_bytes = b"".join(b"\0" + bytes(data[y * width * 4:(y + 1) * width * 4]) for y in range(height))

    def chunk(kind, body):
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    with open(path, "wb") as out:
        out.write(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 6, 0, 0, 0)) +
                  chunk(b"IDAT", zlib.compress(rows_of_bytes, 9)) + chunk(b"IEND", b""))


def main():
    here = os.path.dirname(os.path.abspath(__file__))
    write_sheet(os.path.join(here, "keeper.png"), keeper_frames(), KEEPER_TILE, 8, 6)
    write_sheet(os.path.join(here, "keeper_pale.png"), keeper_frames(), KEEPER_TILE, 8, 6, faded)
    write_sheet(os.path.join(here, "smoker.png"), smoker_frames(), SMOKER_TILE, 8, 1)
    write_sheet(os.path.join(here, "puff.png"), puff_frames(), PUFF_TILE, 6, 1)
    write_sheet(os.path.join(here, "hornet.png"), hornet_frames(AMBER), HORNET_TILE, 8, 6)
    write_sheet(os.path.join(here, "marsh_hornet.png"), hornet_frames(MOSS), HORNET_TILE, 8, 6)
    write_sheet(os.path.join(here, "hive.png"), hive_frames(), HIVE_TILE, 6, 1)


if __name__ == "__main__":
    main()
