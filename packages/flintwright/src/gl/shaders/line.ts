import { boxNumber, lift, placed, rowTexel } from './rows.js';

/** Text of what the vertices of fancy lines are given, of how they know their kind, and of how far along the line they stand. */
interface FancyVertex {
  readonly given: string;
  readonly kind: string;
  readonly share: string;
}

/** Text of what the pixels of fancy lines are given, and of how those are painted. */
interface FancyFragment {
  readonly given: string;
  readonly paint: string;
}

/**
 * One box is one segment with its neighbors; the points lie behind the rows. The vertex shader lays a box around the stroke; the fragment
 * shader measures the distance to its edge. Where two segments meet, each draws up to the line that halves the
 * angle between them, so that a clear stroke is never laid twice.
 */
const lineVertex = ({ given, kind, share }: FancyVertex) => `#version 300 es
precision highp float;
precision highp int;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
uniform float u_scale;      // pixels in a meter of the surface
uniform float u_ground;     // pixels in a meter on the ground
uniform float u_distance;   // of the eye, in pixels
uniform float u_ratio;      // device pixels in a CSS pixel
uniform float u_dashScale;
uniform int u_pass;
uniform int u_raise;        // 0 all features, 1 those in no state, 2 those in one
uniform vec2 u_viewport;    // CSS pixels
${rowTexel}${boxNumber}${lift}${placed}
flat out vec4 v_color;
flat out vec4 v_dash;
flat out vec4 v_joins;      // halving directions at the start and at the end, in the segment's frame
flat out vec4 v_turns;      // side of the inner angle at both ends; 2 more where the inner side is not to be cut
flat out vec4 v_shape;      // length, half width, cap, join
out vec3 v_place;           // along, across, CSS pixels in one device pixel
out float v_run;
${given}
vec2 across(vec2 d) { return vec2(-d.y, d.x); }
// Whether all within some meters of a place of the plane lies beyond an edge of the screen: most segments of a tile that is seen in part do.
bool beyond(vec4 at, float reach) {
  vec4 east = vec4(u_matrix[0].x, -u_matrix[0].x, u_matrix[0].y, -u_matrix[0].y) - u_matrix[0].w;
  vec4 north = vec4(u_matrix[1].x, -u_matrix[1].x, u_matrix[1].y, -u_matrix[1].y) - u_matrix[1].w;
  vec4 out_ = vec4(at.x, -at.x, at.y, -at.y) - at.w;
  return any(greaterThan(out_, sqrt(east * east + north * north) * reach));
}
void main() {
  gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  int segment = boxNumber();
  uvec4 before = bits(segment);
  if (before.w == 0xffffffffu) return;
  int t = int(before.w) + u_pass;
  vec4 widths = texel(t + 2);
  int style = int(widths.w + 0.5);
  if (u_raise != 0 && ((style & 256) != 0) != (u_raise == 2)) return;
  float width = mix(widths.x, widths.y, u_mix) * ((style & 16) != 0 ? u_ground : 1.0);
  if (width <= 0.0) return;
  vec3 from = uintBitsToFloat(bits(segment + 1).xyz);
  vec3 to = uintBitsToFloat(bits(segment + 2).xyz);
  vec2 a = from.xy * u_scale;
  vec2 b = to.xy * u_scale;
  float len = length(b - a);
  if (len <= 0.0) return;
  float hw = width * 0.5;
  vec4 mid = u_matrix * ground((from.xy + to.xy) * 0.5);
  float device = max(mid.w, u_distance * 0.1) / (u_distance * u_ratio);
  float feather = device * 1.5;
  // A mitre reaches four half widths beyond an end, and an offset three times its own measure at a sharp corner.
  if (u_curve == 0.0 && beyond(mid, (len * 0.5 + hw * 5.0 + abs(widths.z) * 3.0 + feather) / u_scale)) return;
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  if (v_color.a <= 0.0) return;
  int cap = style & 3;
  int join = (style >> 2) & 3;
  vec2 d = (b - a) / len;
  vec2 n = across(d);
  vec2 back = a - uintBitsToFloat(before.xy) * u_scale;
  vec2 on = uintBitsToFloat(bits(segment + 3).xy) * u_scale - b;
  float backLen = length(back);
  float onLen = length(on);
  vec2 f = backLen > 0.0 ? back / backLen : d;
  vec2 e = onLen > 0.0 ? on / onLen : d;
  vec2 halfA = f + d;
  vec2 halfB = d + e;
  bool joinA = backLen > 0.0 && dot(halfA, halfA) > 0.02;
  bool joinB = onLen > 0.0 && dot(halfB, halfB) > 0.02;
  halfA = joinA ? normalize(halfA) : d;
  halfB = joinB ? normalize(halfB) : d;
  float cosA = dot(halfA, d);
  float cosB = dot(halfB, d);
  float offset = -widths.z;
  if (offset != 0.0) {
    a += across(halfA) * offset / max(cosA, 0.35);
    b += across(halfB) * offset / max(cosB, 0.35);
    len = max(dot(b - a, d), 0.001);
  }
  float tanA = sqrt(max(0.0, 1.0 - cosA * cosA)) / max(cosA, 0.01);
  float tanB = sqrt(max(0.0, 1.0 - cosB * cosB)) / max(cosB, 0.01);
  float turnA = joinA ? sign(f.x * d.y - f.y * d.x) : 0.0;
  float turnB = joinB ? sign(d.x * e.y - d.y * e.x) : 0.0;
  bool cutA = hw * tanA <= min(len, backLen);
  bool cutB = hw * tanB <= min(len, onLen);
  v_joins = vec4(dot(halfA, d), dot(halfA, n), dot(halfB, d), dot(halfB, n));
  v_turns = vec4(turnA, joinA ? (cutA ? 1.0 : 2.0) : 0.0, turnB, joinB ? (cutB ? 1.0 : 2.0) : 0.0);
  v_shape = vec4(len, hw, float(cap), float(join));
  v_dash = texel(t + 3) * u_dashScale;
${kind}
  float reachA = joinA ? (join == 0 ? hw * min(tanA, 4.0) : hw) : (cap == 0 ? 0.0 : hw);
  float reachB = joinB ? (join == 0 ? hw * min(tanB, 4.0) : hw) : (cap == 0 ? 0.0 : hw);
  bool end = (gl_VertexID & 1) == 1;
  float side = (gl_VertexID & 2) == 2 ? 1.0 : -1.0;
  float along = end ? len + reachB + feather : -reachA - feather;
  float off = side * (hw + feather);
  vec2 p = (a + d * along + n * off) / u_scale;
  if (u_horizon > 0.0) {
    // Towards the rim the ground is seen from the side; strokes keep their width on the screen there.
    vec2 middle = (a + d * along) / u_scale;
    gl_Position = placed(u_matrix, middle);
    vec4 ahead = u_matrix * ground(middle + d / u_scale);
    vec4 beside = u_matrix * ground(middle + n / u_scale);
    vec2 here = gl_Position.xy / gl_Position.w;
    vec2 on = (ahead.xy / ahead.w - here) * u_viewport;
    vec2 aside = (beside.xy / beside.w - here) * u_viewport;
    vec2 normal = dot(on, on) > 1e-8 ? normalize(vec2(-on.y, on.x)) : normalize(aside + vec2(1e-9, 0.0));
    if (dot(normal, aside) < 0.0) normal = -normal;
    gl_Position.xy += normal * off * u_distance * 2.0 / u_viewport;
  } else gl_Position = u_matrix * ground(p);
  v_place = vec3(along, off, gl_Position.w / (u_distance * u_ratio));
  v_run = from.z * u_scale + along;
${share}
}`;

const lineFragment = ({ given, paint }: FancyFragment) => `#version 300 es
precision highp float;
flat in vec4 v_color;
flat in vec4 v_dash;
flat in vec4 v_joins;
flat in vec4 v_turns;
flat in vec4 v_shape;
in vec3 v_place;
in float v_run;
uniform float u_next;        // share of the next zoom level's dashes
${given}
out vec4 o_color;
// Distance outside the dashes.
float dashes(vec4 dash, float across, float hw) {
  float period = dash.x + dash.y + dash.z + dash.w;
  float at = mod(v_run, period);
  float first = min(max(-at, at - dash.x), period - at);
  float second = dash.z > 0.0 ? max(dash.x + dash.y - at, at - dash.x - dash.y - dash.z) : 1e3;
  float away = min(first, second);
  return v_shape.z == 1.0 ? length(vec2(max(away, 0.0), across)) - hw : away;
}
// Distance outside the stroke near one end; p is measured outwards from that end.
float ending(vec2 p, float hw, vec2 bisector, float turn, float joined, bool atEnd) {
  float side = abs(p.y) - hw;
  if (joined == 0.0) {
    int cap = int(v_shape.z + 0.5);
    if (p.x <= 0.0) return side;
    return cap == 0 ? max(side, p.x) : cap == 1 ? length(p) - hw : max(side, p.x - hw);
  }
  bool inner = turn * p.y > 0.0;
  float beyond = dot(p, bisector);
  if (inner && joined > 1.5) return p.x > 0.0 ? 1e3 : side;
  // Distance outside the neighbor's stripe: that of the place mirrored at the line that halves the angle.
  float other = abs(p.y - 2.0 * beyond * bisector.y) - hw;
  // Both sides move the border by the same hair, off the middles of pixels on exact diagonals, and reach over it a
  // little, so that rounding opens no hole: half a pixel where that cannot be seen, next to nothing where it can.
  float over = v_color.a > 0.995 && max(side, other) < -0.5 * v_place.z ? 0.5 : 0.002;
  if (beyond >= (atEnd ? 0.013 : -0.013) + over) return 1e3;
  if (p.x <= 0.0 || inner) return side;
  int join = int(v_shape.w + 0.5);
  if (join == 1) return length(p) - hw;
  if (join == 0 && bisector.x > 0.25) return max(side, other);
  vec2 out_ = vec2(abs(bisector.y), -sign(turn) * bisector.x);
  return max(side, dot(p, out_) - hw * bisector.x);
}
void main() {
  float len = v_shape.x;
  float hw = v_shape.y;
  vec2 p = v_place.xy;
  float outside;
  float head = ending(vec2(-p.x, p.y), hw, vec2(v_joins.x, -v_joins.y), v_turns.x, v_turns.y, false);
  float tail = ending(vec2(p.x - len, p.y), hw, v_joins.zw, v_turns.z, v_turns.w, true);
  outside = max(head, tail);
  float cover = clamp(0.5 - outside / v_place.z, 0.0, 1.0);
  if (v_dash.x + v_dash.y > 0.0) {
    // Dashes grow with the ground up to the next whole level, whose own are mixed in before it is reached.
    float now = clamp(0.5 - max(outside, dashes(v_dash, p.y, hw)) / v_place.z, 0.0, 1.0);
    float next = u_next > 0.0 ? clamp(0.5 - max(outside, dashes(v_dash * 0.5, p.y, hw)) / v_place.z, 0.0, 1.0) : now;
    cover = mix(now, next, u_next);
  }
  vec4 color = v_color;
${paint}
  if (cover <= 0.0) discard;
  o_color = color * cover;
}`;

/** A shader of lines, with what lines have beside their strokes. */
export const lineShaderWith = (vertex: FancyVertex, fragment: FancyFragment) => ({
  vertex: lineVertex(vertex),
  fragment: lineFragment(fragment),
});

export const lineShader = lineShaderWith({ given: '', kind: '', share: '' }, { given: '', paint: '' });
