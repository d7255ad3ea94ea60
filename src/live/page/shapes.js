// Shapes of reaches and zones under the mouse: in pixels of the art, from the pivot, x forward and y up.

// Where they are taken hold of: a name and a place. The first one carries the shape's words.
export function cornersOf(shape) {
  if (shape.rect) {
    const [l, b, w, h] = shape.rect;
    return [['lt', l, b + h], ['rt', l + w, b + h], ['lb', l, b], ['rb', l + w, b]];
  }
  if (shape.circle) return [['radius', shape.circle[0] + shape.circle[2], shape.circle[1]]];
  const [x, y, length, angle] = shape.cone, half = angle / 2 * Math.PI / 180;
  return [['edge', x + length * Math.cos(half), y + length * Math.sin(half)], ['length', x + length, y], ['tip', x, y]];
}

// Whether a place lies within.
export function shapeAt(shape, x, y) {
  if (shape.rect) return x >= shape.rect[0] && x <= shape.rect[0] + shape.rect[2] && y >= shape.rect[1] && y <= shape.rect[1] + shape.rect[3];
  const [cx, cy, far] = shape.circle || shape.cone;
  if (Math.hypot(x - cx, y - cy) > far) return false;
  return !shape.cone || Math.abs(Math.atan2(y - cy, x - cx)) <= shape.cone[3] / 2 * Math.PI / 180;
}

// The shape after it was dragged by so much; `at` is where the mouse is. Whole pixels and degrees.
export function dragged(shape, grip, dx, dy, at) {
  dx = Math.round(dx); dy = Math.round(dy);
  if (shape.rect) {
    let [l, b, w, h] = shape.rect;
    if (grip === 'all' || grip[0] === 'l') { const by = grip === 'all' ? dx : Math.min(dx, w - 1); l += by; if (grip !== 'all') w -= by; }
    if (grip[0] === 'r') w = Math.max(1, w + dx);
    if (grip === 'all' || grip[1] === 'b') { const by = grip === 'all' ? dy : Math.min(dy, h - 1); b += by; if (grip !== 'all') h -= by; }
    if (grip[1] === 't') h = Math.max(1, h + dy);
    return { rect: [l, b, w, h] };
  }
  if (shape.circle) {
    const [x, y, radius] = shape.circle;
    return { circle: grip === 'radius' ? [x, y, Math.max(1, radius + dx)] : [x + dx, y + dy, radius] };
  }
  const [x, y, length, angle] = shape.cone;
  if (grip === 'length') return { cone: [x, y, Math.max(1, length + dx), angle] };
  if (grip === 'edge') return { cone: [x, y, length, Math.max(1, Math.min(360, Math.round(2 * Math.abs(Math.atan2(at[1] - y, at[0] - x)) * 180 / Math.PI)))] };
  return { cone: [x + dx, y + dy, length, angle] };
}
