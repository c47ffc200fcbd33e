import { ellipsoids, type Ellipsoid } from './ellipsoid.js';

// C. F. F. Karney, "Algorithms for geodesics", Journal of Geodesy 87 (2013), with the series to the sixth order. Equation numbers are
// those of the paper.

/** A geodesic between two places. */
export interface GeodesicLine {
  /** Metres. */
  readonly length: number;
  /** Degrees clockwise from north, −180 to 180: the direction at the first place, and at the second (onwards). */
  readonly azimuth: number;
  readonly onwards: number;
}

export interface Geodesic {
  /** The shortest line between two places, all in degrees. */
  inverse(lon1: number, lat1: number, lon2: number, lat2: number): GeodesicLine;
  /** Where a line ends that sets out in some direction (degrees clockwise from north) for some metres. */
  direct(lon: number, lat: number, azimuth: number, length: number): { lon: number; lat: number; onwards: number };
  /**
   * Area in square metres within a ring of geodesics; counter-clockwise rings are positive, and a ring round a pole counts the side to
   * its left.
   *
   * @param ring longitude and latitude in degrees, not closed
   */
  area(ring: readonly (readonly [number, number])[]): number;
}

const degrees = 180 / Math.PI;
const tiny = Math.sqrt(Number.MIN_VALUE * 2 ** 52);

const known = new WeakMap<Ellipsoid, Geodesic>();

/** Geodesics on an ellipsoid. Good to some nanometres, nearly antipodal places included. */
export function geodesicOn(ellipsoid: Ellipsoid = ellipsoids.wgs84): Geodesic {
  let geodesic = known.get(ellipsoid);
  if (!geodesic) known.set(ellipsoid, (geodesic = build(ellipsoid)));
  return geodesic;
}

// --- series -------------------------------------------------------------------------------------

const horner = (x: number, coefficients: readonly number[]) => coefficients.reduce((sum, c) => sum * x + c, 0);

/** Clenshaw's sum of c[k]·sin 2kσ (k from 1), or of c[k]·cos (2k + 1)σ (k from 0) for the area. */
function sinSeries(sin: number, cos: number, c: readonly number[]): number {
  const ar = 2 * (cos - sin) * (cos + sin);
  let [y0, y1] = [0, 0];
  for (let k = c.length - 1; k >= 1; k--) [y0, y1] = [ar * y0 - y1 + c[k], y0];
  return 2 * sin * cos * y0;
}

function cosSeries(sin: number, cos: number, c: readonly number[]): number {
  const ar = 2 * (cos - sin) * (cos + sin);
  let [y0, y1] = [0, 0];
  for (let k = c.length - 1; k >= 0; k--) [y0, y1] = [ar * y0 - y1 + c[k], y0];
  return cos * (y0 - y1);
}

/** A₁ − 1 (17) and A₂ − 1 (42). */
const a1m1 = (eps: number) => {
  const t = horner(eps * eps, [1, 4, 64, 0]) / 256;
  return (t + eps) / (1 - eps);
};
const a2m1 = (eps: number) => {
  const t = horner(eps * eps, [-11, -28, -192, 0]) / 256;
  return (t - eps) / (1 + eps);
};

const evenSeries = (rows: readonly (readonly [readonly number[], number])[]) => (eps: number) => {
  const out = [0];
  let power = eps;
  for (const [coefficients, divisor] of rows) {
    out.push((power * horner(eps * eps, coefficients)) / divisor);
    power *= eps;
  }
  return out;
};
/** C₁ (18), C₁′ (21), C₂ (43). */
const c1 = evenSeries([
  [[-1, 6, -16], 32],
  [[-9, 64, -128], 2048],
  [[9, -16], 768],
  [[3, -5], 512],
  [[-7], 1280],
  [[-7], 2048],
]);
const c1p = evenSeries([
  [[205, -432, 768], 1536],
  [[4005, -4736, 3840], 12288],
  [[-225, 116], 384],
  [[-7173, 2695], 7680],
  [[3467], 7680],
  [[38081], 61440],
]);
const c2 = evenSeries([
  [[1, 2, 16], 32],
  [[35, 64, 384], 2048],
  [[15, 80], 768],
  [[7, 35], 512],
  [[63], 1280],
  [[77], 2048],
]);

/** A₃ (24) and C₃ (25): polynomials in ε whose coefficients are polynomials in n. */
const a3Rows: readonly (readonly [readonly number[], number])[] = [
  [[-3], 128],
  [[-2, -3], 64],
  [[-1, -3, -1], 16],
  [[3, -1, -2], 8],
  [[1, -1], 2],
  [[1], 1],
];
const c3Rows: readonly (readonly (readonly [readonly number[], number])[])[] = [
  [
    [[3], 128],
    [[2, 5], 128],
    [[-1, 3, 3], 64],
    [[-1, 0, 1], 8],
    [[-1, 1], 4],
  ],
  [
    [[5], 256],
    [[1, 3], 128],
    [[-3, -2, 3], 64],
    [[1, -3, 2], 32],
  ],
  [
    [[7], 512],
    [[-10, 9], 384],
    [[5, -9, 5], 192],
  ],
  [
    [[7], 512],
    [[-14, 7], 512],
  ],
  [[[21], 2560]],
];
/** C₄ (63). */
const c4Rows: readonly (readonly (readonly [readonly number[], number])[])[] = [
  [
    [[97], 15015],
    [[1088, 156], 45045],
    [[-224, -4784, 1573], 45045],
    [[-10656, 14144, -4576, -858], 45045],
    [[64, 624, -4576, 6864, -3003], 15015],
    [[100, 208, 572, 3432, -12012, 30030], 45045],
  ],
  [
    [[1], 9009],
    [[-2944, 468], 135135],
    [[5792, 1040, -1287], 135135],
    [[5952, -11648, 9152, -2574], 135135],
    [[-64, -624, 4576, -6864, 3003], 135135],
  ],
  [
    [[8], 10725],
    [[1856, -936], 225225],
    [[-8448, 4992, -1144], 225225],
    [[-1440, 4160, -4576, 1716], 225225],
  ],
  [
    [[-136], 63063],
    [[1024, -208], 105105],
    [[3584, -3328, 1144], 315315],
  ],
  [
    [[-128], 135135],
    [[-2560, 832], 405405],
  ],
  [[[128], 99099]],
];

// --- small angles, exactly ----------------------------------------------------------------------

/** The difference of two angles in degrees, −180 to 180, with what rounding has left over. */
function difference(x: number, y: number): [number, number] {
  const twoSum = (u: number, v: number): [number, number] => {
    const s = u + v;
    let up = s - v;
    let vpp = s - up;
    up -= u;
    vpp -= v;
    return [s, s === 0 ? 0 : 0 - (up + vpp)];
  };
  const rest = (v: number) => {
    const r = v % 360;
    return r <= -180 ? r + 360 : r > 180 ? r - 360 : r;
  };
  let [d, t] = twoSum(rest(-x), rest(y));
  [d, t] = twoSum(rest(d), t);
  if (d === 0 || Math.abs(d) === 180) d = Math.abs(d) * (t === 0 ? (y - x < 0 ? -1 : 1) : t > 0 ? -1 : 1);
  return [d, t];
}

/** Sine and cosine of degrees, exact at multiples of ninety. */
function sinCos(degreesOf: number): [number, number] {
  const r = degreesOf % 360;
  const q = Math.round(r / 90);
  const v = (r - 90 * q) / degrees;
  const [s, c] = [Math.sin(v), Math.cos(v)];
  const [sin, cos] = (
    [
      [s, c],
      [c, -s],
      [-s, -c],
      [-c, s],
    ] as [number, number][]
  )[((q % 4) + 4) % 4];
  return [sin + 0, cos + 0];
}

const unit = (x: number, y: number): [number, number] => {
  const h = Math.hypot(x, y);
  return [x / h, y / h];
};
const arc = (sin: number, cos: number) => Math.atan2(sin, cos) * degrees;

// --- the geodesic problems ----------------------------------------------------------------------

function build({ a, f, b, e2, n }: Ellipsoid): Geodesic {
  const f1 = 1 - f;
  const ep2 = e2 / (f1 * f1);
  const c2a = (a * a + b * b * (e2 === 0 ? 1 : Math.atanh(Math.sqrt(e2)) / Math.sqrt(e2))) / 2;
  const etol2 = (0.1 * Math.sqrt(2 ** -52)) / Math.sqrt((Math.max(0.001, Math.abs(f)) * Math.min(1, 1 - f / 2)) / 2);
  const tol1 = 200 * 2 ** -52;
  const xthresh = 1000 * Math.sqrt(2 ** -52);
  const a3x = a3Rows.map(([coefficients, divisor]) => horner(n, coefficients) / divisor);
  const c3x = c3Rows.map((row) => row.map(([coefficients, divisor]) => horner(n, coefficients) / divisor));
  const c4x = c4Rows.map((row) => row.map(([coefficients, divisor]) => horner(n, coefficients) / divisor));
  const a3 = (eps: number) => horner(eps, a3x);
  const powers = (rows: readonly (readonly number[])[], eps: number, first: number) => {
    const out = first ? [0] : [];
    let power = first ? eps : 1;
    for (const row of rows) {
      out.push(power * horner(eps, row));
      power *= eps;
    }
    return out;
  };
  const c3 = (eps: number) => powers(c3x, eps, 1);
  const c4 = (eps: number) => powers(c4x, eps, 0);

  /** Distance over b, reduced length over b (38, 40), and m₀ for the antipodal case. */
  const lengths = (
    eps: number,
    sig12: number,
    ssig1: number,
    csig1: number,
    dn1: number,
    ssig2: number,
    csig2: number,
    dn2: number,
  ) => {
    const A1 = a1m1(eps);
    const A2 = a2m1(eps);
    const C1 = c1(eps);
    const C2 = c2(eps);
    const m0 = A1 - A2;
    const b1 = sinSeries(ssig2, csig2, C1) - sinSeries(ssig1, csig1, C1);
    const b2 = sinSeries(ssig2, csig2, C2) - sinSeries(ssig1, csig1, C2);
    const j12 = m0 * sig12 + ((1 + A1) * b1 - (1 + A2) * b2);
    return {
      s12b: (1 + A1) * (sig12 + b1),
      m12b: dn2 * (csig1 * ssig2) - dn1 * (ssig1 * csig2) - csig1 * csig2 * j12,
      m0,
    };
  };

  /** Solves κ⁴ + 2κ³ − (x² + y² − 1)κ² − 2y²κ − y² = 0 for the positive root (55). */
  const astroid = (x: number, y: number) => {
    const p = x * x;
    const q = y * y;
    const r = (p + q - 1) / 6;
    if (q === 0 && r <= 0) return 0;
    const S = (p * q) / 4;
    const r2 = r * r;
    const r3 = r * r2;
    const disc = S * (S + 2 * r3);
    let u = r;
    if (disc >= 0) {
      let T3 = S + r3;
      T3 += T3 < 0 ? -Math.sqrt(disc) : Math.sqrt(disc);
      const T = Math.cbrt(T3);
      u += T + (T === 0 ? 0 : r2 / T);
    } else u += 2 * r * Math.cos(Math.atan2(Math.sqrt(-disc), -(S + r3)) / 3);
    const v = Math.hypot(u, y);
    const uv = u < 0 ? q / (v - u) : u + v;
    const w = (uv - q) / (2 * v);
    return uv / (Math.sqrt(uv + w * w) + w);
  };

  interface Turn {
    lam12: number;
    salp2: number;
    calp2: number;
    sig12: number;
    ssig1: number;
    csig1: number;
    ssig2: number;
    csig2: number;
    eps: number;
    dlam12: number;
  }

  /** The difference of longitude that an azimuth leads to, and its derivative (section 4). */
  const lambda12 = (
    sbet1: number,
    cbet1: number,
    dn1: number,
    sbet2: number,
    cbet2: number,
    dn2: number,
    salp1: number,
    calp1Given: number,
    slam120: number,
    clam120: number,
    withSlope: boolean,
  ): Turn => {
    const calp1 = sbet1 === 0 && calp1Given === 0 ? -tiny : calp1Given;
    const salp0 = salp1 * cbet1;
    const calp0 = Math.hypot(calp1, salp1 * sbet1);
    let ssig1 = sbet1;
    const somg1 = salp0 * sbet1;
    let csig1 = calp1 * cbet1;
    const comg1 = csig1;
    [ssig1, csig1] = unit(ssig1, csig1);
    const salp2 = cbet2 !== cbet1 ? salp0 / cbet2 : salp1;
    const calp2 =
      cbet2 !== cbet1 || Math.abs(sbet2) !== -sbet1
        ? Math.sqrt(
            (calp1 * cbet1) ** 2 +
              (cbet1 < -sbet1 ? (cbet2 - cbet1) * (cbet1 + cbet2) : (sbet1 - sbet2) * (sbet1 + sbet2)),
          ) / cbet2
        : Math.abs(calp1);
    let ssig2 = sbet2;
    const somg2 = salp0 * sbet2;
    let csig2 = calp2 * cbet2;
    const comg2 = csig2;
    [ssig2, csig2] = unit(ssig2, csig2);
    const sig12 = Math.atan2(Math.max(0, csig1 * ssig2 - ssig1 * csig2), csig1 * csig2 + ssig1 * ssig2);
    const somg12 = Math.max(0, comg1 * somg2 - somg1 * comg2);
    const comg12 = comg1 * comg2 + somg1 * somg2;
    const eta = Math.atan2(somg12 * clam120 - comg12 * slam120, comg12 * clam120 + somg12 * slam120);
    const k2 = calp0 * calp0 * ep2;
    const eps = k2 / (2 * (1 + Math.sqrt(1 + k2)) + k2);
    const C3 = c3(eps);
    const b312 = sinSeries(ssig2, csig2, C3) - sinSeries(ssig1, csig1, C3);
    const lam12 = eta - f * a3(eps) * salp0 * (sig12 + b312);
    let dlam12 = 0;
    if (withSlope) {
      if (calp2 === 0) dlam12 = (-2 * f1 * dn1) / sbet1;
      else {
        const { m12b } = lengths(eps, sig12, ssig1, csig1, dn1, ssig2, csig2, dn2);
        dlam12 = (m12b * f1) / (calp2 * cbet2);
      }
    }
    return { lam12, salp2, calp2, sig12, ssig1, csig1, ssig2, csig2, eps, dlam12 };
  };

  interface Solved {
    s12: number;
    salp1: number;
    calp1: number;
    salp2: number;
    calp2: number;
    /** Area between the geodesic and the equator, with the terms at the ends. */
    S12: number;
  }

  const solveInverse = (
    lon1: number,
    lat1Given: number,
    lon2: number,
    lat2Given: number,
    withArea: boolean,
  ): Solved => {
    let [lon12, lon12s] = difference(lon1, lon2);
    let lonsign = lon12 < 0 || Object.is(lon12, -0) ? -1 : 1;
    lon12 *= lonsign;
    lon12s *= lonsign;
    const lam12 = lon12 / degrees;
    const [slam12, cosAbs] = sinCos(lon12 > 90 ? 180 - lon12 - lon12s : lon12 + lon12s);
    const clam12 = lon12 > 90 ? -cosAbs : cosAbs;
    lon12s = 180 - lon12 - lon12s;
    let [lat1, lat2] = [lat1Given, lat2Given];
    const swapp = Math.abs(lat1) < Math.abs(lat2) ? -1 : 1;
    if (swapp < 0) {
      lonsign *= -1;
      [lat1, lat2] = [lat2, lat1];
    }
    const latsign = lat1 < 0 || Object.is(lat1, -0) ? 1 : -1;
    lat1 *= latsign;
    lat2 *= latsign;
    const reduced = (lat: number): [number, number] => {
      const [s, c] = sinCos(lat);
      const [sb, cb] = unit(f1 * s, c);
      return [sb, Math.max(tiny, cb)];
    };
    const [sbet1, cbet1] = reduced(lat1);
    let [sbet2, cbet2] = reduced(lat2);
    if (cbet1 < -sbet1) {
      if (cbet2 === cbet1) sbet2 = sbet2 < 0 ? sbet1 : -sbet1;
    } else if (Math.abs(sbet2) === -sbet1) cbet2 = cbet1;
    const dn1 = Math.sqrt(1 + ep2 * sbet1 * sbet1);
    const dn2 = Math.sqrt(1 + ep2 * sbet2 * sbet2);
    let [salp1, calp1, salp2, calp2, s12, somg12, comg12] = [0, 1, 0, 1, 0, 2, 0];
    let isMeridian = lat1 === -90 || slam12 === 0;
    if (isMeridian) {
      [calp1, salp1] = [clam12, slam12];
      [calp2, salp2] = [1, 0];
      const [ssig1, csig1] = [sbet1, calp1 * cbet1];
      const [ssig2, csig2] = [sbet2, calp2 * cbet2];
      const sig12 = Math.atan2(Math.max(0, csig1 * ssig2 - ssig1 * csig2), csig1 * csig2 + ssig1 * ssig2);
      const { s12b, m12b } = lengths(n, sig12, ssig1, csig1, dn1, ssig2, csig2, dn2);
      if (sig12 < 1 || m12b >= 0) s12 = sig12 < 3 * tiny ? 0 : s12b * b;
      else isMeridian = false;
    }
    if (!isMeridian && sbet1 === 0 && (f <= 0 || lon12s >= f * 180)) {
      [calp1, calp2, salp1, salp2] = [0, 0, 1, 1];
      s12 = a * lam12;
      somg12 = Math.sin(lam12 / f1);
      comg12 = Math.cos(lam12 / f1);
      if (withArea) {
        somg12 = Math.sin(lam12);
        comg12 = Math.cos(lam12);
      }
    } else if (!isMeridian) {
      const begun = start(sbet1, cbet1, sbet2, cbet2, lam12, slam12, clam12);
      ({ salp1, calp1 } = begun);
      if (begun.sig12 >= 0) {
        ({ salp2, calp2 } = begun);
        s12 = begun.sig12 * b * begun.dnm;
        const omg12 = lam12 / (f1 * begun.dnm);
        somg12 = Math.sin(omg12);
        comg12 = Math.cos(omg12);
      } else {
        let [salp1a, calp1a, salp1b, calp1b] = [tiny, 1, tiny, -1];
        let [tripn, tripb] = [false, false];
        let turn!: Turn;
        for (let i = 0; i < 83; i++) {
          turn = lambda12(sbet1, cbet1, dn1, sbet2, cbet2, dn2, salp1, calp1, slam12, clam12, i < 20);
          const v = turn.lam12;
          if (tripb || !(Math.abs(v) >= (tripn ? 8 : 1) * 2 ** -52)) break;
          if (v > 0 && (i > 20 || calp1 / salp1 > calp1b / salp1b)) [salp1b, calp1b] = [salp1, calp1];
          else if (v < 0 && (i > 20 || calp1 / salp1 < calp1a / salp1a)) [salp1a, calp1a] = [salp1, calp1];
          if (i < 20 && turn.dlam12 > 0) {
            const dalp1 = -v / turn.dlam12;
            const [sdalp1, cdalp1] = [Math.sin(dalp1), Math.cos(dalp1)];
            const nsalp1 = salp1 * cdalp1 + calp1 * sdalp1;
            if (nsalp1 > 0 && Math.abs(dalp1) < Math.PI) {
              [salp1, calp1] = unit(nsalp1, calp1 * cdalp1 - salp1 * sdalp1);
              tripn = Math.abs(v) <= 16 * 2 ** -52;
              continue;
            }
          }
          [salp1, calp1] = unit((salp1a + salp1b) / 2, (calp1a + calp1b) / 2);
          tripn = false;
          tripb =
            Math.abs(salp1a - salp1) + (calp1a - calp1) < 2 ** -52 ||
            Math.abs(salp1 - salp1b) + (calp1 - calp1b) < 2 ** -52;
        }
        ({ salp2, calp2 } = turn);
        const { ssig1, csig1, ssig2, csig2, eps } = turn;
        s12 = lengths(eps, turn.sig12, ssig1, csig1, dn1, ssig2, csig2, dn2).s12b * b;
        if (withArea) {
          // ω₁₂ = λ₁₂ − its ellipsoidal part, which λ₁₂(α₁) has been solved for.
          const domg = turn.lam12;
          const salp0 = salp1 * cbet1;
          const omg12 =
            lam12 +
            domg +
            f * a3(eps) * salp0 * (turn.sig12 + sinSeries(ssig2, csig2, c3(eps)) - sinSeries(ssig1, csig1, c3(eps)));
          somg12 = Math.sin(omg12);
          comg12 = Math.cos(omg12);
        }
      }
    }
    let S12 = 0;
    if (withArea) {
      const salp0 = salp1 * cbet1;
      const calp0 = Math.hypot(calp1, salp1 * sbet1);
      if (calp0 !== 0 && salp0 !== 0) {
        const [s1, cs1] = unit(sbet1, calp1 * cbet1);
        const [s2, cs2] = unit(sbet2, calp2 * cbet2);
        const k2 = calp0 * calp0 * ep2;
        const C4 = c4(k2 / (2 * (1 + Math.sqrt(1 + k2)) + k2));
        S12 = a * a * calp0 * salp0 * e2 * (cosSeries(s2, cs2, C4) - cosSeries(s1, cs1, C4));
      }
      if (somg12 === 2) [somg12, comg12] = [slam12, clam12];
      let alp12: number;
      if (!isMeridian && comg12 > -0.7071 && sbet2 - sbet1 < 1.75) {
        const domg12 = 1 + comg12;
        const dbet1 = 1 + cbet1;
        const dbet2 = 1 + cbet2;
        alp12 = 2 * Math.atan2(somg12 * (sbet1 * dbet2 + sbet2 * dbet1), domg12 * (sbet1 * sbet2 + dbet1 * dbet2));
      } else {
        let salp12 = salp2 * calp1 - calp2 * salp1;
        let calp12 = calp2 * calp1 + salp2 * salp1;
        if (salp12 === 0 && calp12 < 0) [salp12, calp12] = [tiny * calp1, -1];
        alp12 = Math.atan2(salp12, calp12);
      }
      S12 += c2a * alp12;
      S12 *= swapp * lonsign * latsign;
    }
    if (swapp < 0) {
      [salp1, salp2] = [salp2, salp1];
      [calp1, calp2] = [calp2, calp1];
    }
    return {
      s12: s12 + 0,
      salp1: salp1 * swapp * lonsign,
      calp1: calp1 * swapp * latsign,
      salp2: salp2 * swapp * lonsign,
      calp2: calp2 * swapp * latsign,
      S12,
    };
  };

  /** The azimuth to begin Newton's method with, or all of the answer for short lines (section 5). */
  const start = (
    sbet1: number,
    cbet1: number,
    sbet2: number,
    cbet2: number,
    lam12: number,
    slam12: number,
    clam12: number,
  ): { sig12: number; salp1: number; calp1: number; salp2: number; calp2: number; dnm: number } => {
    let [sig12, salp2, calp2, dnm] = [-1, 0, 0, 1];
    const sbet12 = sbet2 * cbet1 - cbet2 * sbet1;
    const cbet12 = cbet2 * cbet1 + sbet2 * sbet1;
    const sbet12a = sbet2 * cbet1 + cbet2 * sbet1;
    const short = cbet12 >= 0 && sbet12 < 0.5 && cbet2 * lam12 < 0.5;
    let [somg12, comg12] = [slam12, clam12];
    if (short) {
      let sbetm2 = (sbet1 + sbet2) ** 2;
      sbetm2 /= sbetm2 + (cbet1 + cbet2) ** 2;
      dnm = Math.sqrt(1 + ep2 * sbetm2);
      somg12 = Math.sin(lam12 / (f1 * dnm));
      comg12 = Math.cos(lam12 / (f1 * dnm));
    }
    let salp1 = cbet2 * somg12;
    let calp1 =
      comg12 >= 0
        ? sbet12 + (cbet2 * sbet1 * somg12 * somg12) / (1 + comg12)
        : sbet12a - (cbet2 * sbet1 * somg12 * somg12) / (1 - comg12);
    const ssig12 = Math.hypot(salp1, calp1);
    const csig12 = sbet1 * sbet2 + cbet1 * cbet2 * comg12;
    if (short && ssig12 < etol2) {
      salp2 = cbet1 * somg12;
      calp2 = sbet12 - cbet1 * sbet2 * (comg12 >= 0 ? (somg12 * somg12) / (1 + comg12) : 1 - comg12);
      [salp2, calp2] = unit(salp2, calp2);
      sig12 = Math.atan2(ssig12, csig12);
    } else if (Math.abs(n) > 0.1 || csig12 >= 0 || ssig12 >= 6 * Math.abs(n) * Math.PI * cbet1 * cbet1) {
      // The great circle is near enough.
    } else {
      const lam12x = Math.atan2(-slam12, -clam12);
      const k2 = sbet1 * sbet1 * ep2;
      const eps = k2 / (2 * (1 + Math.sqrt(1 + k2)) + k2);
      const lamscale = f * cbet1 * a3(eps) * Math.PI;
      const betscale = lamscale * cbet1;
      const x = lam12x / lamscale;
      const y = sbet12a / betscale;
      if (y > -tol1 && x > -1 - xthresh) {
        salp1 = Math.min(1, -x);
        calp1 = -Math.sqrt(1 - salp1 * salp1);
      } else {
        const k = astroid(x, y);
        const omg12a = lamscale * ((-x * k) / (1 + k));
        somg12 = Math.sin(omg12a);
        comg12 = -Math.cos(omg12a);
        salp1 = cbet2 * somg12;
        calp1 = sbet12a - (cbet2 * sbet1 * somg12 * somg12) / (1 - comg12);
      }
    }
    if (!(salp1 <= 0)) [salp1, calp1] = unit(salp1, calp1);
    else [salp1, calp1] = [1, 0];
    return { sig12, salp1, calp1, salp2, calp2, dnm };
  };

  return {
    inverse(lon1, lat1, lon2, lat2) {
      const { s12, salp1, calp1, salp2, calp2 } = solveInverse(lon1, lat1, lon2, lat2, false);
      return { length: s12, azimuth: arc(salp1, calp1), onwards: arc(salp2, calp2) };
    },
    direct(lon, lat, azimuth, length) {
      const [salp1, calp1] = sinCos(azimuth);
      const [s, c] = sinCos(lat);
      const [sbet1, cb] = unit(f1 * s, c);
      const cbet1 = Math.max(tiny, cb);
      const salp0 = salp1 * cbet1;
      const calp0 = Math.hypot(calp1, salp1 * sbet1);
      const somg1 = salp0 * sbet1;
      const comg1 = sbet1 !== 0 || calp1 !== 0 ? cbet1 * calp1 : 1;
      const [ssig1, csig1] = unit(sbet1, comg1);
      const k2 = calp0 * calp0 * ep2;
      const eps = k2 / (2 * (1 + Math.sqrt(1 + k2)) + k2);
      const A1 = a1m1(eps);
      const C1 = c1(eps);
      const b11 = sinSeries(ssig1, csig1, C1);
      const stau1 = ssig1 * Math.cos(b11) + csig1 * Math.sin(b11);
      const ctau1 = csig1 * Math.cos(b11) - ssig1 * Math.sin(b11);
      const tau12 = length / (b * (1 + A1));
      const b12 = -sinSeries(
        stau1 * Math.cos(tau12) + ctau1 * Math.sin(tau12),
        ctau1 * Math.cos(tau12) - stau1 * Math.sin(tau12),
        c1p(eps),
      );
      const sig12 = tau12 - (b12 - b11);
      const [ssig12, csig12] = [Math.sin(sig12), Math.cos(sig12)];
      const ssig2 = ssig1 * csig12 + csig1 * ssig12;
      const csig2 = csig1 * csig12 - ssig1 * ssig12;
      const sbet2 = calp0 * ssig2;
      const cbet2 = Math.hypot(salp0, calp0 * csig2) || tiny;
      const C3 = c3(eps);
      const somg2 = salp0 * ssig2;
      const omg12 = Math.atan2(somg2 * comg1 - csig2 * somg1, csig2 * comg1 + somg2 * somg1);
      const lam12 = omg12 - f * a3(eps) * salp0 * (sig12 + sinSeries(ssig2, csig2, C3) - sinSeries(ssig1, csig1, C3));
      const lon2 = lon + lam12 * degrees;
      return {
        lon: lon2 > 180 || lon2 < -180 ? lon2 - 360 * Math.round(lon2 / 360) : lon2,
        lat: arc(sbet2, f1 * cbet2),
        onwards: arc(salp0, calp0 * csig2),
      };
    },
    area(ring) {
      let sum = 0;
      let crossings = 0;
      for (let i = 0; i < ring.length; i++) {
        const [lon1, lat1] = ring[i];
        const [lon2, lat2] = ring[(i + 1) % ring.length];
        sum += solveInverse(lon1, lat1, lon2, lat2, true).S12;
        crossings += transit(lon1, lon2);
      }
      const whole = 4 * Math.PI * c2a;
      let area = sum;
      if (crossings % 2) area += ((area < 0 ? 1 : -1) * whole) / 2;
      // Sums are clockwise positive.
      area = -area;
      if (area > whole / 2) area -= whole;
      else if (area <= -whole / 2) area += whole;
      return area + 0;
    },
  };
}

/** 1 or −1 where an edge crosses the prime meridian eastwards or westwards, else 0. */
function transit(lon1: number, lon2: number): number {
  const [lon12] = difference(lon1, lon2);
  const rest = (v: number) => {
    const r = v % 360;
    return r <= -180 ? r + 360 : r > 180 ? r - 360 : r;
  };
  const [a, b] = [rest(lon1), rest(lon2)];
  return lon12 > 0 && ((a < 0 && b >= 0) || (a > 0 && b === 0)) ? 1 : lon12 < 0 && a >= 0 && b < 0 ? -1 : 0;
}
