// The series of C. F. F. Karney, "Algorithms for geodesics", Journal of Geodesy 87 (2013), to the sixth order in ε and n. Numbers in
// brackets are those of the paper's equations.

/** Coefficients of rising powers of n. */
type Polynomial = readonly number[];

/** Σ cᵢ xⁱ. */
function polynomial(c: Polynomial, x: number): number {
  let sum = 0;
  for (let i = c.length - 1; i >= 0; i--) sum = sum * x + c[i];
  return sum;
}

/** An arc σ, with the sines and cosines that series of it take. */
export interface Arc {
  readonly σ: number;
  readonly sinσ: number;
  readonly cosσ: number;
  readonly sin2σ: number;
  readonly cos2σ: number;
}

/** The arc that is the phase of x + iy. */
export function arcOf(x: number, y: number): Arc {
  const r = Math.hypot(x, y) || 1;
  const [sinσ, cosσ] = [y / r, x / r];
  return { σ: Math.atan2(y, x), sinσ, cosσ, sin2σ: 2 * sinσ * cosσ, cos2σ: (cosσ - sinσ) * (cosσ + sinσ) };
}

/** Σ Cₗ sin 2lσ, from l = 1, by Clenshaw's recurrence. */
export function sineSum(C: readonly number[], { sin2σ, cos2σ }: Pick<Arc, 'sin2σ' | 'cos2σ'>): number {
  const x = 2 * cos2σ;
  let u = 0;
  let v = 0;
  for (let l = C.length - 1; l >= 0; l--) {
    const next = C[l] + x * u - v;
    v = u;
    u = next;
  }
  return u * sin2σ;
}

/** Σ Cₗ cos (2l + 1)σ, from l = 0. */
export function cosineSum(C: readonly number[], { σ }: Pick<Arc, 'σ'>): number {
  let sum = 0;
  for (let l = C.length - 1; l >= 0; l--) sum += C[l] * Math.cos((2 * l + 1) * σ);
  return sum;
}

/** A₁ (17): the mean of ds/dσ over a quarter of the geodesic, in units of b. */
export const A1 = (ε: number) => polynomial([1, 0, 1 / 4, 0, 1 / 64, 0, 1 / 256], ε) / (1 - ε);

/** A₂ (42). */
export const A2 = (ε: number) => polynomial([1, 0, 1 / 4, 0, 9 / 64, 0, 25 / 256], ε) * (1 - ε);

/** Coefficients that begin with the l-th power of ε and go on with every second one, for l = 1, 2 … */
const everySecond = (rows: readonly Polynomial[]) => (ε: number) => {
  let power = 1;
  return rows.map((row) => (power *= ε) * polynomial(row, ε * ε));
};

/** C₁ₗ (18). */
export const C1 = everySecond([
  [-1 / 2, 3 / 16, -1 / 32],
  [-1 / 16, 1 / 32, -9 / 2048],
  [-1 / 48, 3 / 256],
  [-5 / 512, 3 / 512],
  [-7 / 1280],
  [-7 / 2048],
]);

/** C′₁ₗ (21), which undo {@link C1}. */
export const C1Inverse = everySecond([
  [1 / 2, -9 / 32, 205 / 1536],
  [5 / 16, -37 / 96, 1335 / 4096],
  [29 / 96, -75 / 128],
  [539 / 1536, -2391 / 2560],
  [3467 / 7680],
  [38081 / 61440],
]);

/** C₂ₗ (43). */
export const C2 = everySecond([
  [1 / 2, 1 / 16, 1 / 32],
  [3 / 16, 1 / 32, 35 / 2048],
  [5 / 48, 5 / 256],
  [35 / 512, 7 / 512],
  [63 / 1280],
  [77 / 2048],
]);

/** A₃ (24): for each power of ε from the zeroth, a polynomial in n. */
const a3: readonly Polynomial[] = [
  [1],
  [-1 / 2, 1 / 2],
  [-1 / 4, -1 / 8, 3 / 8],
  [-1 / 16, -3 / 16, -1 / 16],
  [-3 / 64, -1 / 32],
  [-3 / 128],
];

/** C₃ₗ (25), from l = 1: for each power of ε from the l-th, a polynomial in n. */
const c3: readonly (readonly Polynomial[])[] = [
  [[1 / 4, -1 / 4], [1 / 8, 0, -1 / 8], [3 / 64, 3 / 64, -1 / 64], [5 / 128, 1 / 64], [3 / 128]],
  [[1 / 16, -3 / 32, 1 / 32], [3 / 64, -1 / 32, -3 / 64], [3 / 128, 1 / 128], [5 / 256]],
  [[5 / 192, -3 / 64, 5 / 192], [3 / 128, -5 / 192], [7 / 512]],
  [[7 / 512, -7 / 256], [7 / 512]],
  [[21 / 2560]],
];

/** C₄ₗ (63), from l = 0: for each power of ε from the l-th, a polynomial in n. */
const c4: readonly (readonly Polynomial[])[] = [
  [
    [2 / 3, -4 / 15, 8 / 105, 4 / 315, 16 / 3465, 20 / 9009],
    [-1 / 5, 16 / 35, -32 / 105, 16 / 385, 64 / 15015],
    [-2 / 105, -32 / 315, 1088 / 3465, -1184 / 5005],
    [11 / 315, -368 / 3465, -32 / 6435],
    [4 / 1155, 1088 / 45045],
    [97 / 15015],
  ],
  [
    [1 / 45, -16 / 315, 32 / 945, -16 / 3465, -64 / 135135],
    [-2 / 105, 64 / 945, -128 / 1485, 1984 / 45045],
    [-1 / 105, 16 / 2079, 5792 / 135135],
    [4 / 1155, -2944 / 135135],
    [1 / 9009],
  ],
  [
    [4 / 525, -32 / 1575, 64 / 3465, -32 / 5005],
    [-8 / 1575, 128 / 5775, -256 / 6825],
    [-8 / 1925, 1856 / 225225],
    [8 / 10725],
  ],
  [[8 / 2205, -256 / 24255, 512 / 45045], [-16 / 8085, 1024 / 105105], [-136 / 63063]],
  [[64 / 31185, -512 / 81081], [-128 / 135135]],
  [[128 / 99099]],
];

/** The series that depend on the third flattening, with n put in. */
export interface FlatteningSeries {
  A3(ε: number): number;
  C3(ε: number): number[];
  C4(ε: number): number[];
}

/** @param n third flattening of the ellipsoid */
export function seriesFor(n: number): FlatteningSeries {
  const withN = (rows: readonly Polynomial[]) => rows.map((row) => polynomial(row, n));
  const [a3n, c3n, c4n] = [withN(a3), c3.map(withN), c4.map(withN)];
  return {
    A3: (ε) => polynomial(a3n, ε),
    C3: (ε) => c3n.map((row, i) => ε ** (i + 1) * polynomial(row, ε)),
    C4: (ε) => c4n.map((row, l) => ε ** l * polynomial(row, ε)),
  };
}
