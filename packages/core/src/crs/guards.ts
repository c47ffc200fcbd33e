// Thresholds of the projection methods, with their reasons and the error that each allows in docs/decisions/8-projection-guards.md. They are powers
// of two, derived from δ = 2⁻⁵², the spacing of numbers near 1. On the Earth an angle of 2⁻⁴⁰ is 6 µm, one of 2⁻³⁰ 6 mm.

/** Angle within which a place is that of a point where a formula has no value, such as a pole. */
export const pointReach = 2 ** -40;

/** Share by which a coordinate may lie beyond the edge of the domain, as rounding puts what lies on it. */
export const edgeSlack = 2 ** -40;

/** The same, where the edge is reached by several roundings or by iteration: radians, or a share. */
export const looseSlack = 2 ** -30;

/** Difference below which a quotient of two differences is taken as its limit: there its rounding, δ/ε, is what the limit leaves out, ε². */
export const limitReach = 2 ** -17;

/** Steps of Newton's method below this change nothing: half the spacing of numbers near 1. */
export const newtonEnd = 2 ** -53;

/** Least slope that Newton's method divides by, so that a step never leaves the numbers. */
export const leastSlope = 2 ** -40;

/** Cosine of a distance from the point opposite the center, plus 1, below which a stereographic plane ends: 2.5° from that point. */
export const stereographicRim = 2 ** -10;

/** The same for the equal-area plane, which has that point as its rim: 70 m from it. */
export const equalAreaRim = 2 ** -33;

/** Cosine of the distance from the center at which a gnomonic plane ends, and the tangent there: 89.1°. */
export const gnomonicRim = 2 ** -6;
