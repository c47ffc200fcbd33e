/** Reads texel `t` of an appearance texture that is 1024 texels wide. */
const rowTexel = `
uniform highp sampler2D u_rows;
vec4 texel(int t) { return texelFetch(u_rows, ivec2(t & 1023, t >> 10), 0); }`;

export const maskShader = {
  vertex: `#version 300 es
layout(location=0) in vec4 a_clip;
void main() { gl_Position = a_clip; }`,
  fragment: `#version 300 es
precision lowp float;
out vec4 o_color;
void main() { o_color = vec4(0.0); }`,
};

export const areaShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec3 a_place;
layout(location=1) in uint a_texel;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
${rowTexel}
flat out vec4 v_color;
void main() {
  int t = int(a_texel);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  gl_Position = v_color.a > 0.0 ? u_matrix * vec4(a_place, 1.0) : vec4(2.0, 2.0, 2.0, 1.0);
}`,
  fragment: `#version 300 es
precision mediump float;
flat in vec4 v_color;
out vec4 o_color;
void main() { o_color = v_color; }`,
};

/**
 * One instance is one segment with its neighbours. The vertex shader lays a box around the stroke; the fragment
 * shader measures the distance to its edge. Where two segments meet, each draws up to the line that halves the
 * angle between them, so that a clear stroke is never laid twice.
 */
export const lineShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec2 a_before;
layout(location=1) in uint a_texel;
layout(location=2) in vec3 a_from;
layout(location=3) in vec3 a_to;
layout(location=4) in vec2 a_after;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
uniform float u_scale;      // pixels in a metre of the surface
uniform float u_ground;     // pixels in a metre on the ground
uniform float u_distance;   // of the eye, in pixels
uniform float u_ratio;      // device pixels in a CSS pixel
uniform float u_dashScale;
uniform int u_pass;
${rowTexel}
flat out vec4 v_color;
flat out vec4 v_dash;
flat out vec4 v_joins;      // halving directions at the start and at the end, in the segment's frame
flat out vec4 v_turns;      // side of the inner angle at both ends; 2 more where the inner side is not to be cut
flat out vec4 v_shape;      // length, half width, cap, join
out vec3 v_place;           // along, across, CSS pixels in one device pixel
out float v_run;
vec2 across(vec2 d) { return vec2(-d.y, d.x); }
void main() {
  gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
  if (a_texel == 0xffffffffu) return;
  int t = int(a_texel) + u_pass;
  vec4 widths = texel(t + 2);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  int style = int(widths.w + 0.5);
  float width = mix(widths.x, widths.y, u_mix) * (style >= 16 ? u_ground : 1.0);
  if (v_color.a <= 0.0 || width <= 0.0) return;
  int cap = style & 3;
  int join = (style >> 2) & 3;
  float hw = width * 0.5;
  vec2 a = a_from.xy * u_scale;
  vec2 b = a_to.xy * u_scale;
  float len = length(b - a);
  if (len <= 0.0) return;
  vec2 d = (b - a) / len;
  vec2 n = across(d);
  vec2 back = a - a_before * u_scale;
  vec2 on = a_after * u_scale - b;
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
  vec4 mid = u_matrix * vec4((a_from.xy + a_to.xy) * 0.5, 0.0, 1.0);
  float device = max(mid.w, u_distance * 0.1) / (u_distance * u_ratio);
  float feather = device * 1.5;
  float reachA = joinA ? (join == 0 ? hw * min(tanA, 4.0) : hw) : (cap == 0 ? 0.0 : hw);
  float reachB = joinB ? (join == 0 ? hw * min(tanB, 4.0) : hw) : (cap == 0 ? 0.0 : hw);
  bool end = (gl_VertexID & 1) == 1;
  float side = (gl_VertexID & 2) == 2 ? 1.0 : -1.0;
  float along = end ? len + reachB + feather : -reachA - feather;
  float off = side * (hw + feather);
  vec2 p = (a + d * along + n * off) / u_scale;
  gl_Position = u_matrix * vec4(p, 0.0, 1.0);
  v_place = vec3(along, off, gl_Position.w / (u_distance * u_ratio));
  v_run = a_from.z * u_scale + along;
}`,
  fragment: `#version 300 es
precision highp float;
flat in vec4 v_color;
flat in vec4 v_dash;
flat in vec4 v_joins;
flat in vec4 v_turns;
flat in vec4 v_shape;
in vec3 v_place;
in float v_run;
out vec4 o_color;
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
  // Both sides move the border by the same hair, off the middles of pixels on exact diagonals, and reach over it a
  // little, so that rounding opens no hole: half a pixel where that cannot be seen, next to nothing where it can.
  float over = v_color.a > 0.995 ? 0.5 : 0.002;
  if (beyond >= (atEnd ? 0.013 : -0.013) + over) return 1e3;
  if (p.x <= 0.0 || inner) return side;
  int join = int(v_shape.w + 0.5);
  if (join == 1) return length(p) - hw;
  if (join == 0 && bisector.x > 0.25) return side;
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
  float period = v_dash.x + v_dash.y + v_dash.z + v_dash.w;
  if (period > 0.0) {
    float at = mod(v_run, period);
    float first = max(-at, at - v_dash.x);
    first = min(first, period - at);
    float second = v_dash.z > 0.0 ? max(v_dash.x + v_dash.y - at, at - v_dash.x - v_dash.y - v_dash.z) : 1e3;
    float gap_ = min(first, second);
    outside = v_shape.z == 1.0 ? max(outside, length(vec2(max(gap_, 0.0), p.y)) - hw) : max(outside, gap_);
  }
  float cover = clamp(0.5 - outside / v_place.z, 0.0, 1.0);
  if (cover <= 0.0) discard;
  o_color = v_color * cover;
}`,
};

/** Symbols at points, upright on the screen, from the sprite atlas. */
export const markShader = {
  vertex: `#version 300 es
precision highp float;
precision highp int;
layout(location=0) in vec3 a_place;
layout(location=1) in uint a_texel;
uniform mat4 u_matrix;
uniform float u_mix;
uniform float u_opacity;
uniform float u_ratio;
uniform vec2 u_viewport;    // CSS pixels
uniform int u_pass;
${rowTexel}
flat out vec4 v_color;
flat out vec4 v_rim;
flat out vec3 v_field;      // rim width and one device pixel, both in field units; sprite
out vec2 v_at;
const float cells = 16.0;
void main() {
  int t = int(a_texel) + u_pass;
  vec4 form = texel(t + 2);
  float size = mix(form.x, form.y, u_mix);
  v_color = mix(texel(t), texel(t + 1), u_mix) * u_opacity;
  v_rim = texel(t + 3) * u_opacity;
  float rim = texel(t + 4).x;
  if (size <= 0.0 || (v_color.a <= 0.0 && v_rim.a <= 0.0)) {
    gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    return;
  }
  // 24 units of the drawing are 44 of the 64 pixels of a cell; the field runs over 10 pixels either way.
  float cell = size * 64.0 / 44.0;
  float fieldPerPixel = 44.0 / size / 20.0;
  v_field = vec3(rim * fieldPerPixel, fieldPerPixel / u_ratio, 0.0);
  vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1));
  float c = cos(form.z);
  float s = sin(form.z);
  vec2 off = (corner - 0.5) * cell;
  off = vec2(off.x * c - off.y * s, off.x * s + off.y * c);
  vec4 at = u_matrix * vec4(a_place, 1.0);
  // Whole device pixels keep upright symbols crisp.
  vec2 pixel = (at.xy / at.w * 0.5 + 0.5) * u_viewport * u_ratio;
  pixel = floor(pixel + 0.5) / (u_viewport * u_ratio) * 2.0 - 1.0;
  gl_Position = vec4(pixel + vec2(off.x, -off.y) * 2.0 / u_viewport, 0.0, 1.0);
  float sprite = floor(form.w + 0.5);
  v_at = (vec2(mod(sprite, cells), floor(sprite / cells)) + corner) / cells;
}`,
  fragment: `#version 300 es
precision highp float;
flat in vec4 v_color;
flat in vec4 v_rim;
flat in vec3 v_field;
in vec2 v_at;
uniform sampler2D u_atlas;
out vec4 o_color;
void main() {
  float field = texture(u_atlas, v_at).r - 0.502;
  float body = clamp(field / v_field.y + 0.5, 0.0, 1.0);
  float whole = clamp((field + v_field.x) / v_field.y + 0.5, 0.0, 1.0);
  o_color = v_color * body + v_rim * (v_field.x > 0.0 ? whole * (1.0 - body) : 0.0);
  if (o_color.a <= 0.0) discard;
}`,
};

/** Boxes of a distance-field atlas in screen space: labels, and the parts of markers. */
export const boxShader = {
  vertex: `#version 300 es
precision highp float;
layout(location=0) in vec4 a_box;     // middle x, y, half width, half height in CSS pixels
layout(location=1) in vec4 a_uv;      // left, top, right, bottom
layout(location=2) in vec4 a_color;
layout(location=3) in vec4 a_halo;
layout(location=4) in vec4 a_field;   // halo width and one device pixel in field units, turn, softness
uniform vec2 u_viewport;
out vec2 v_at;
flat out vec4 v_color;
flat out vec4 v_halo;
flat out vec4 v_field;
void main() {
  vec2 corner = vec2(float(gl_VertexID & 1), float(gl_VertexID >> 1));
  vec2 off = (corner * 2.0 - 1.0) * a_box.zw;
  float c = cos(a_field.z);
  float s = sin(a_field.z);
  vec2 at = a_box.xy + vec2(off.x * c - off.y * s, off.x * s + off.y * c);
  gl_Position = vec4(at.x / u_viewport.x * 2.0 - 1.0, 1.0 - at.y / u_viewport.y * 2.0, 0.0, 1.0);
  v_at = mix(a_uv.xy, a_uv.zw, corner);
  v_color = a_color;
  v_halo = a_halo;
  v_field = a_field;
}`,
  fragment: `#version 300 es
precision highp float;
in vec2 v_at;
flat in vec4 v_color;
flat in vec4 v_halo;
flat in vec4 v_field;
uniform sampler2D u_atlas;
out vec4 o_color;
void main() {
  float field = texture(u_atlas, v_at).r - 0.502;
  float body = clamp(field / v_field.y + 0.5, 0.0, 1.0);
  float whole = v_field.x > 0.0 ? clamp((field + v_field.x) / (v_field.y * 1.4) + 0.5, 0.0, 1.0) : 0.0;
  o_color = v_color * body + v_halo * whole * (1.0 - body);
  if (o_color.a <= 0.0) discard;
}`,
};
