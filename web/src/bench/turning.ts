/** How a person stands to the engine: the plan turns and mirrors, heads and strokes never flip. */
export interface Orientation {
  quarterTurns: 0 | 1 | 2 | 3;
  mirrored: boolean;
}

export interface Place {
  x: number;
  y: number;
}

/** Return where a place of the plan (y up) appears on the screen (y down). */
export function turned(place: Place, orientation: Orientation): Place {
  const x = orientation.mirrored ? -place.x : place.x;
  const down = -place.y;
  switch (orientation.quarterTurns) {
    case 0:
      return { x, y: down };
    case 1:
      return { x: -down, y: x };
    case 2:
      return { x: -x, y: -down };
    case 3:
      return { x: down, y: -x };
  }
}

export interface Ends {
  x_minus: string;
  x_plus: string;
  y_minus: string;
  y_plus: string;
}

export interface Edges {
  left: string;
  right: string;
  top: string;
  bottom: string;
}

/** Return which landmark stands at which edge of the screen. */
export function edges(ends: Ends, orientation: Orientation): Edges {
  const found: Edges = { left: "", right: "", top: "", bottom: "" };
  const marks: [string, Place][] = [
    [ends.x_minus, { x: -1, y: 0 }],
    [ends.x_plus, { x: 1, y: 0 }],
    [ends.y_minus, { x: 0, y: -1 }],
    [ends.y_plus, { x: 0, y: 1 }],
  ];
  for (const [name, place] of marks) {
    const seen = turned(place, orientation);
    if (seen.x < -0.5) found.left = name;
    else if (seen.x > 0.5) found.right = name;
    else if (seen.y < -0.5) found.top = name;
    else found.bottom = name;
  }
  return found;
}
