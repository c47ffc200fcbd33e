/** A piece of text on a path: the middle of the piece in pixels, and its turn in radians clockwise. */
export interface PathPiece {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
}

/** How a text is laid along a path. */
export interface AlongOptions {
  /** Share of the path's length at which the middle of the text lies; default 0.5. */
  readonly around?: number;
  /** Pixels over which the path is smoothed before the text is laid along it; default 0. */
  readonly smooth?: number;
  /** Greatest bend between neighboring pieces in radians; default 0.26. */
  readonly sharpest?: number;
  /** Greatest difference between the directions of any two pieces in radians; default 1.2. */
  readonly total?: number;
}

/**
 * Lays `count` pieces of equal length along a path on the screen, around a place on it and so that the text reads
 * from left to right. Undefined where the path is too short or bends too sharply for the text.
 *
 * @param path x, y by turns, in pixels, y down; it may not change once it was given
 * @param length of the whole text in pixels
 */
export function layAlong(
  path: ArrayLike<number>,
  length: number,
  count: number,
  { around = 0.5, smooth = 0, sharpest = 0.26, total: widest = 1.2 }: AlongOptions = {},
): PathPiece[] | undefined {
  const given = courseOf(path);
  const { course, middle } =
    smooth > 0
      ? smoothed(given, given.length * around, length, smooth)
      : { course: given, middle: given.length * around };
  const start = middle - length / 2;
  if (start < 0 || start + length > course.length) return undefined;
  const points = Array.from({ length: count + 1 }, (_, k) => course.at(start + (length * k) / count).place);
  if (points[count][0] < points[0][0]) points.reverse();
  const pieces: PathPiece[] = [];
  let [least, most, turn] = [0, 0, 0];
  for (let k = 0; k < count; k++) {
    const [ax, ay] = points[k];
    const [bx, by] = points[k + 1];
    const direction = Math.atan2(by - ay, bx - ax);
    if (k) {
      const bend = turnBetween(pieces[k - 1].turn, direction);
      turn += bend;
      [least, most] = [Math.min(least, turn), Math.max(most, turn)];
      if (Math.abs(bend) > sharpest || most - least > widest) return undefined;
    }
    pieces.push({ x: (ax + bx) / 2, y: (ay + by) / 2, turn: direction });
  }
  return pieces;
}

/** From one direction to another the shorter way, in radians. */
const turnBetween = (from: number, to: number) =>
  ((((to - from + Math.PI) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI)) - Math.PI;

/** Courses of paths that a text has been tried on: it is tried at many places of a long line. */
const courses = new WeakMap<ArrayLike<number>, Course>();

function courseOf(path: ArrayLike<number>): Course {
  let course = courses.get(path);
  if (!course) courses.set(path, (course = new Course(path)));
  return course;
}

/** A smooth course around a place on another, long enough for a text of a length, and where the place lies on it. */
function smoothed(given: Course, middle: number, length: number, smooth: number): { course: Course; middle: number } {
  const side = (to: number) => {
    const pieces = Math.max(1, Math.ceil((Math.abs(to - middle) / smooth) * 4));
    return Array.from({ length: pieces }, (_, k) => given.around(middle + ((to - middle) * (k + 1)) / pieces, smooth));
  };
  // A smooth course is shorter than the one that it follows.
  const before = side(Math.max(0, middle - length)).reverse();
  const after = side(Math.min(given.length, middle + length));
  const course = new Course([...before, given.around(middle, smooth), ...after].flat());
  return { course, middle: course.runs[before.length] };
}

/** A path by its length. */
class Course {
  /** Length up to each vertex, and the integral of x and y over it. */
  readonly runs: number[] = [0];
  private readonly sums: [number, number][] = [[0, 0]];

  constructor(private readonly path: ArrayLike<number>) {
    for (let i = 1; i < path.length / 2; i++) {
      const [ax, ay, bx, by] = [path[2 * i - 2], path[2 * i - 1], path[2 * i], path[2 * i + 1]];
      const step = Math.hypot(bx - ax, by - ay);
      const [x, y] = this.sums[i - 1];
      this.runs.push(this.runs[i - 1] + step);
      this.sums.push([x + ((ax + bx) / 2) * step, y + ((ay + by) / 2) * step]);
    }
  }

  get length(): number {
    return this.runs[this.runs.length - 1];
  }

  /** The mean place of a stretch of some pixels around a length; near an end of the path the stretch is shorter. */
  around(at: number, smooth: number): [number, number] {
    const half = Math.min(smooth / 2, at, this.length - at);
    if (half < 0.01) return this.at(at).place;
    const [from, to] = [this.at(at - half), this.at(at + half)];
    return [(to.sum[0] - from.sum[0]) / (2 * half), (to.sum[1] - from.sum[1]) / (2 * half)];
  }

  at(run: number): { place: [number, number]; sum: [number, number] } {
    const { path, runs, sums } = this;
    let [low, high] = [0, runs.length - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (runs[middle] <= run) low = middle;
      else high = middle;
    }
    const rest = Math.max(0, Math.min(run, this.length) - runs[low]);
    const step = runs[high] - runs[low];
    const t = step > 0 ? rest / step : 0;
    const [ax, ay] = [path[2 * low], path[2 * low + 1]];
    const [x, y] = [ax + (path[2 * high] - ax) * t, ay + (path[2 * high + 1] - ay) * t];
    return { place: [x, y], sum: [sums[low][0] + ((ax + x) / 2) * rest, sums[low][1] + ((ay + y) / 2) * rest] };
  }
}

/**
 * Places along a path of a length in pixels at which a text may stand, as shares of the length: the middle first, then the
 * middles of the halves and so on, as long as they lie well apart. The same places come back when the path grows.
 */
export function placesAlong(length: number, apart = 420): number[] {
  const out = [0.5];
  for (let parts = 4; length / parts >= apart && parts <= 64; parts *= 2)
    for (let i = 1; i < parts; i += 2) out.push(i / parts);
  return out;
}
