import { lineShaderWith } from './line.js';

/** Lines that may carry a gradient or marks; dearer, so only layers that need it use it. */
export const fancyLineShader = lineShaderWith(
  {
    given: `
uniform int u_only;          // 1 all but marks, 2 marks alone
uniform int u_spans;         // how far behind the points of lines the stretches of their marks lie
out float v_share;
flat out vec2 v_span;       // where the stretch of marks begins and ends along the line
flat out int v_kind;
flat out vec4 v_detail;`,
    kind: `
  v_kind = (style >> 5) & 7;
  if (u_only != 0 && (v_kind == 2) != (u_only == 2)) return;
  v_detail = texel(t + 3);
  v_span = v_kind == 2 ? uintBitsToFloat(bits(segment + 1 + u_spans).xy) * u_scale : vec2(0.0);
  if (v_kind == 2) {
    // Where a stretch ends, its marks are not cut along the line that halves the corner.
    if (v_span.x > from.z * u_scale - 0.01) joinA = false;
    if (v_span.y < to.z * u_scale + 0.01) joinB = false;
    v_turns *= vec4(1.0, joinA ? 1.0 : 0.0, 1.0, joinB ? 1.0 : 0.0);
  }
  if (v_kind != 0) v_dash = vec4(0.0);`,
    share: '  v_share = mix(from.z, to.z, clamp(along / len, 0.0, 1.0));',
  },
  {
    given: `
in float v_share;
flat in vec2 v_span;
flat in int v_kind;
flat in vec4 v_detail;
uniform float u_dashScale;
uniform sampler2D u_ramps;
uniform sampler2D u_atlas;
// Symbols at equal gaps, their tops ahead: as many as fit wholly into the stretch, with the same room before the first and after the last.
float symbol(float gap, float size, float across) {
  float room = v_span.y - v_span.x;
  if (room < size) return 0.0;
  float pace = max(gap, size);
  float last = max(1.0, floor(room / pace + 0.001)) - 1.0;
  float run = v_run - v_span.x - (room - last * pace) * 0.5;
  float at = (run - clamp(floor(run / pace + 0.5), 0.0, last) * pace) / (size * 64.0 / 44.0);
  vec2 uv = vec2(-across / (size * 64.0 / 44.0), -at) + 0.5;
  if (uv.x < 0.0 || uv.y < 0.0 || uv.x > 1.0 || uv.y > 1.0) return 0.0;
  float sprite = v_detail.x;
  float field = textureLod(u_atlas, (vec2(mod(sprite, 16.0), floor(sprite / 16.0)) + uv) / 16.0, 0.0).a - 0.502;
  return clamp(field / (v_place.z * 44.0 / size / 20.0) + 0.5, 0.0, 1.0);
}`,
    paint: `
  if (v_kind == 1) color = textureLod(u_ramps, vec2(clamp(v_share, 0.002, 0.998), (v_detail.x + 0.5) / 64.0), 0.0) * v_color.a;
  if (v_kind == 2) {
    float gap = v_detail.y * u_dashScale;
    cover = min(cover, mix(symbol(gap, hw * 2.0, p.y), u_next > 0.0 ? symbol(gap * 0.5, hw * 2.0, p.y) : 0.0, u_next));
  }`,
  },
);
