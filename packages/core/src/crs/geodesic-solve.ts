// The equations of C. F. F. Karney, "Algorithms for geodesics", Journal of Geodesy 87 (2013), in the paper's notation: φ latitude,
// β reduced latitude, α azimuth, λ longitude and s length on the ellipsoid; ω longitude and σ arc on the auxiliary sphere; subscripts 1
// and 2 for the ends, 12 for differences, 0 for the place where the geodesic crosses the equator northwards. Angles are in radians.
// The guards and thresholds are our own; docs/decisions/7-guards.md derives each.
import type { Ellipsoid } from './ellipsoid.js';
import {
  A1,
  A2,
  arcOf,
  C1,
  C1Inverse,
  C2,
  cosineSum,
  seriesFor,
  sineSum,
  type Arc,
  type FlatteningSeries,
} from './geodesic-series.js';

/** An angle by its sine and cosine. */
export type SinCos = readonly [sin: number, cos: number];

/** The phase of x + iy. */
const ph = (x: number, y: number) => Math.atan2(y, x);

/** Stands for a cosine of 0, so that directions at the poles keep a meaning; its square is still a normal number. */
const almostZero = 2 ** -500;
/** Spacing of numbers near 1. */
const δ = 2 ** -52;
/** Steps of Newton's method at most: a bracket of π is halved to δ in 54, and each step that falls short is followed by a halving. */
const mostSteps = 2 * 54;
/** Half-widths of the astroid within which a place counts as nearly antipodal. */
const antipodal = 4;

/** A geodesic on the auxiliary sphere, from the azimuth at its first end. */
interface OnSphere {
  readonly sinα0: number;
  readonly cosα0: number;
  readonly sinα2: number;
  readonly cosα2: number;
  readonly end1: Arc;
  readonly end2: Arc;
  readonly σ12: number;
  readonly ω12: number;
  readonly ε: number;
}

/** The shortest line between two places: length, azimuths at both ends, area down to the equator. */
export interface Joined {
  readonly s12: number;
  readonly α1: number;
  readonly α2: number;
  readonly S12: number;
}

/** Where a geodesic ends. */
export interface End {
  readonly φ2: number;
  readonly λ12: number;
  readonly α2: number;
}

/** Solves the two geodesic problems on one ellipsoid. */
export class GeodesicSolver {
  private readonly series: FlatteningSeries;
  /** Square of the second eccentricity, e′² (1). */
  private readonly eʹ2: number;
  /** Square of the radius of the sphere of the same area, c² (60). */
  readonly c2: number;

  constructor(private readonly ellipsoid: Ellipsoid) {
    const { a, b, e, e2, n } = ellipsoid;
    this.series = seriesFor(n);
    this.eʹ2 = e2 / (1 - e2);
    this.c2 = e2 ? (a ** 2 + (b ** 2 * Math.atanh(e)) / e) / 2 : a ** 2;
  }

  /** tan β = (1 − f) tan φ (6). */
  private reduced([sinφ, cosφ]: SinCos): SinCos {
    const y = (1 - this.ellipsoid.f) * sinφ;
    const r = Math.hypot(y, cosφ);
    return [y / r, Math.max(almostZero, cosφ / r)];
  }

  /** ε (16) of a geodesic, from k = e′ cos α₀ (9). */
  private epsilon(cosα0: number): number {
    const k2 = this.eʹ2 * cosα0 ** 2;
    return k2 / (Math.sqrt(1 + k2) + 1) ** 2;
  }

  /** I₃(σ₂) − I₃(σ₁) (23). */
  private I3(ε: number, end1: Arc, end2: Arc, σ12 = end2.σ - end1.σ): number {
    const C3 = this.series.C3(ε);
    return this.series.A3(ε) * (σ12 + sineSum(C3, end2) - sineSum(C3, end1));
  }

  /** s₁₂ = b (I₁(σ₂) − I₁(σ₁)) (15). */
  private length(ε: number, end1: Arc, end2: Arc, σ12: number): number {
    const c = C1(ε);
    return this.ellipsoid.b * A1(ε) * (σ12 + sineSum(c, end2) - sineSum(c, end1));
  }

  /** m₁₂ / b (38): how far apart neighboring geodesics are at the end, for an angle of 1 between them at the beginning. */
  private reducedLength(ε: number, cosα0: number, end1: Arc, end2: Arc, σ12: number): number {
    const k2 = this.eʹ2 * cosα0 ** 2;
    const [c1, c2] = [C1(ε), C2(ε)];
    const I1 = A1(ε) * (σ12 + sineSum(c1, end2) - sineSum(c1, end1));
    const I2 = A2(ε) * (σ12 + sineSum(c2, end2) - sineSum(c2, end1));
    const root = ({ sinσ }: Arc) => Math.sqrt(1 + k2 * sinσ ** 2);
    return root(end2) * end1.cosσ * end2.sinσ - root(end1) * end1.sinσ * end2.cosσ - end1.cosσ * end2.cosσ * (I1 - I2);
  }

  /** The direct problem (section 3). */
  direct(φ1: SinCos, [sinα1, cosα1]: SinCos, s12: number): End {
    const { b, f } = this.ellipsoid;
    const [sinβ1, cosβ1] = this.reduced(φ1);
    // (10), (11) and (12)
    const sinα0 = sinα1 * cosβ1;
    const cosα0 = Math.hypot(cosα1, sinα1 * sinβ1);
    const end1 = arcOf(cosα1 * cosβ1, sinβ1);
    const ω1 = ph(cosα1 * cosβ1, sinα0 * sinβ1);
    const ε = this.epsilon(cosα0);
    const τ1 = end1.σ + sineSum(C1(ε), end1);
    const τ2 = τ1 + s12 / (b * A1(ε));
    // (20)
    const σ2 = τ2 + sineSum(C1Inverse(ε), { sin2σ: Math.sin(2 * τ2), cos2σ: Math.cos(2 * τ2) });
    const end2 = { ...arcOf(Math.cos(σ2), Math.sin(σ2)), σ: σ2 };
    const { sinσ: sinσ2, cosσ: cosσ2 } = end2;
    const ω2 = ph(cosσ2, sinα0 * sinσ2);
    // (13), (14) and (23)
    const sinβ2 = cosα0 * sinσ2;
    const cosβ2 = Math.hypot(cosα0 * cosσ2, sinα0);
    return {
      φ2: ph((1 - f) * cosβ2, sinβ2),
      λ12: ω2 - ω1 - f * sinα0 * this.I3(ε, end1, end2),
      α2: ph(cosα0 * cosσ2, sinα0),
    };
  }

  /**
   * The inverse problem (section 4), for φ₁ ≤ 0, |φ₂| ≤ |φ₁| and 0 ≤ λ₁₂ ≤ π, to which every case is brought by (44).
   *
   * @param φ1 latitude of the first place
   * @param φ2 latitude of the second
   * @param λ12 difference of longitude
   */
  inverse(φ1: SinCos, φ2: SinCos, λ12: number): Joined {
    const { a, f } = this.ellipsoid;
    const [sinβ1, cosβ1] = this.reduced(φ1);
    const [sinβ2, cosβ2] = this.reduced(φ2);
    const β1: SinCos = [sinβ1, cosβ1];
    // Reduced latitudes of the same size are to be the same to the last bit.
    const β2: SinCos = Math.abs(φ2[0]) === Math.abs(φ1[0]) ? [sinβ2 < 0 ? sinβ1 : -sinβ1, cosβ1] : [sinβ2, cosβ2];
    const onMeridian = λ12 === 0 || λ12 === Math.PI || φ1[1] === 0;
    const meridian = onMeridian ? this.alongMeridian(β1, β2, λ12) : undefined;
    if (meridian) return meridian;
    if (sinβ1 === 0 && λ12 <= (1 - f) * Math.PI) return { s12: a * λ12, α1: Math.PI / 2, α2: Math.PI / 2, S12: 0 };
    const start = this.start(β1, β2, λ12);
    const η = start.s12 === undefined ? this.newton(β1, β2, λ12, Math.PI / 2 - start.α1) : Math.PI / 2 - start.α1;
    const found = this.onSphere(β1, β2, η);
    const { end1, end2, σ12, ε, sinα2, cosα2 } = found;
    const α1 = start.s12 === undefined ? ph(Math.sin(η), Math.cos(η)) : start.α1;
    const s12 = start.s12 ?? this.length(ε, end1, end2, σ12);
    const ω12 = start.ω12 ?? λ12 + f * found.sinα0 * this.I3(ε, end1, end2, σ12);
    return {
      s12,
      α1,
      α2: start.α2 ?? ph(cosα2, sinα2),
      S12: this.area(found, ph(cosβ1, sinβ1), ph(β2[1], β2[0]), ω12),
    };
  }

  /** A geodesic along a meridian, over the nearer pole where λ₁₂ is π; undefined where that is not the shortest way. */
  private alongMeridian([sinβ1, cosβ1]: SinCos, [sinβ2, cosβ2]: SinCos, λ12: number): Joined | undefined {
    const α1 = λ12;
    const end1 = arcOf(Math.cos(α1) * cosβ1, sinβ1);
    const end2 = arcOf(cosβ2, sinβ2);
    const σ12 = end2.σ - end1.σ + (end2.σ < end1.σ ? 2 * Math.PI : 0);
    const { n } = this.ellipsoid;
    // Beyond the conjugate point, which lies near σ = π, a geodesic is not the shortest.
    if (σ12 > Math.PI / 2 && this.reducedLength(n, 1, end1, end2, σ12) < 0) return undefined;
    const α12 = λ12 === 0 ? 0 : this.turned(ph(cosβ1, sinβ1), ph(cosβ2, sinβ2), λ12);
    return { s12: this.length(n, end1, end2, σ12), α1, α2: 0, S12: this.c2 * α12 };
  }

  /**
   * The geodesic on the sphere that sets out at α₁ and reaches β₂ going north, (5), (10) to (12) and (45).
   *
   * @param η π/2 − α₁: along the equator, where σ is the phase of two small numbers, the cosine of α₁ has to be right in all its digits
   */
  private onSphere([sinβ1, cosβ1]: SinCos, [sinβ2, cosβ2]: SinCos, η: number): OnSphere {
    const [sinα1, cosα1] = [Math.cos(η), Math.sin(η)];
    const sinα0 = sinα1 * cosβ1;
    const cosα0 = Math.hypot(cosα1, sinα1 * sinβ1);
    // cos²β₂ − cos²β₁, in the way that loses least.
    const widening = cosβ1 < -sinβ1 ? (cosβ2 - cosβ1) * (cosβ2 + cosβ1) : (sinβ1 - sinβ2) * (sinβ1 + sinβ2);
    const sinα2 = sinα0 / cosβ2;
    const cosα2 = Math.sqrt(Math.max(0, (cosα1 * cosβ1) ** 2 + widening)) / cosβ2;
    const [x1, x2] = [cosα1 * cosβ1, cosα2 * cosβ2];
    const [y1, y2] = [sinα0 * sinβ1, sinα0 * sinβ2];
    return {
      sinα0,
      cosα0,
      sinα2,
      cosα2,
      end1: arcOf(x1, sinβ1),
      end2: arcOf(x2, sinβ2),
      // The phase of a quotient: the difference of two phases without their rounding.
      σ12: ph(x1 * x2 + sinβ1 * sinβ2, x1 * sinβ2 - x2 * sinβ1),
      ω12: ph(x1 * x2 + y1 * y2, x1 * y2 - x2 * y1),
      ε: this.epsilon(cosα0),
    };
  }

  /** The azimuth, as η = π/2 − α₁, at which λ₁₂ is reached: Newton's method, kept within a bracket that is halved where it fails. */
  private newton(β1: SinCos, β2: SinCos, λ12: number, begun: number): number {
    const { e2, f } = this.ellipsoid;
    let [low, high] = [-Math.PI / 2, Math.PI / 2];
    let η = begun;
    for (let i = 0; i < mostSteps; i++) {
      const { sinα0, cosα0, cosα2, end1, end2, σ12, ω12, ε } = this.onSphere(β1, β2, η);
      const miss = ω12 - f * sinα0 * this.I3(ε, end1, end2, σ12) - λ12;
      if (miss > 0) low = η;
      else high = η;
      // (46), and (47) where the geodesic has its vertex at both ends
      const slope =
        cosα2 === 0
          ? (-2 * Math.sqrt(1 - e2 * β1[1] ** 2)) / β1[0]
          : ((1 - f) * this.reducedLength(ε, cosα0, end1, end2, σ12)) / (cosα2 * β2[1]);
      const step = miss / slope;
      const next = slope > 0 && η + step > low && η + step < high ? η + step : (low + high) / 2;
      // The longitude is met to the spacing of numbers below 1, or η has no nearer neighbor.
      if (Math.abs(miss) <= δ / 2 || Math.abs(next - η) <= (δ / 2) * Math.abs(η)) return η;
      η = next;
    }
    return η;
  }

  /** An azimuth to begin with (section 5); for short lines all of the answer. */
  private start(
    [sinβ1, cosβ1]: SinCos,
    [sinβ2, cosβ2]: SinCos,
    λ12: number,
  ): { readonly α1: number; readonly α2?: number; readonly s12?: number; readonly ω12?: number } {
    const { a, e2, f } = this.ellipsoid;
    const sinβ12 = sinβ2 * cosβ1 - cosβ2 * sinβ1;
    const cosσ = (λ: number) => sinβ1 * sinβ2 + cosβ1 * cosβ2 * Math.cos(λ);
    // Within 30° the ellipsoid is taken for the sphere that touches it midway.
    const near = cosσ(λ12) > Math.cos(Math.PI / 6);
    // (48)
    const w = near ? Math.sqrt(1 - e2 * ((cosβ1 + cosβ2) / 2) ** 2) : 1;
    const ω12 = λ12 / w;
    const half = 2 * Math.sin(ω12 / 2) ** 2;
    // (49) to (51), the great circle
    const x1 = sinβ12 + sinβ1 * cosβ2 * half;
    const y1 = cosβ2 * Math.sin(ω12);
    const σ12 = ph(cosσ(ω12), Math.hypot(x1, y1));
    const α1 = ph(x1, y1);
    // What that leaves out is at most e²σ²/8 of the length, which is below the spacing of numbers here.
    if (near && e2 * σ12 ** 2 <= 8 * δ) {
      const α2 = ph(sinβ12 - cosβ1 * sinβ2 * half, cosβ1 * Math.sin(ω12));
      return { α1, α2, s12: a * w * σ12, ω12 };
    }
    // (53) to (57): nearly antipodal places, seen against the astroid that geodesics from the first place envelop
    const x = (λ12 - Math.PI) / (f * Math.PI * cosβ1);
    const y = Math.asin(Math.max(-1, Math.min(1, sinβ2 * cosβ1 + cosβ2 * sinβ1))) / (f * Math.PI * cosβ1 ** 2);
    if (!(x > -antipodal && y > -antipodal)) return { α1: α1 > 0 ? α1 : Math.PI / 2 };
    if (y >= 0 && x > -1) return { α1: ph(-Math.sqrt(Math.max(0, 1 - x * x)), -x) };
    const κ = astroid(x, y);
    const begun = ph(y / κ, -x / (1 + κ));
    return { α1: begun > 0 && begun < Math.PI ? begun : Math.PI / 2 };
  }

  /** α₂ − α₁ on the sphere, from the reduced latitudes of both ends and ω₁₂ (65). */
  private turned(β1: number, β2: number, ω12: number): number {
    const [sum, difference] = [(β1 + β2) / 2, (β2 - β1) / 2];
    return 2 * ph(Math.cos(difference) * Math.cos(ω12 / 2), Math.sin(sum) * Math.sin(ω12 / 2));
  }

  /** S₁₂ (59): the area between the geodesic and the equator. */
  private area({ sinα0, cosα0, end1, end2, ε }: OnSphere, β1: number, β2: number, ω12: number): number {
    const { a, e2 } = this.ellipsoid;
    const C4 = this.series.C4(ε);
    const I4 = cosineSum(C4, end2) - cosineSum(C4, end1);
    return this.c2 * this.turned(β1, β2, ω12) + e2 * a ** 2 * cosα0 * sinα0 * I4;
  }
}

/** The positive root κ of κ⁴ + 2κ³ + (1 − x² − y²) κ² − 2y²κ − y² = 0 (55), which is x² / (1 + κ)² + y² / κ² = 1. */
function astroid(x: number, y: number): number {
  let κ = Math.max(-y, -x - 1, 0);
  // The remainder of 1 falls and flattens as κ grows, so that Newton's method rises towards the root from below.
  for (let i = 0; i < 60; i++) {
    const [p, q] = [(x / (1 + κ)) ** 2, (y / κ) ** 2];
    const step = (p + q - 1) / (2 * (p / (1 + κ) + q / κ));
    κ += step;
    // A start for Newton's method, which doubles its digits: six of them are enough.
    if (!(step > κ * 2 ** -20)) break;
  }
  return κ;
}
