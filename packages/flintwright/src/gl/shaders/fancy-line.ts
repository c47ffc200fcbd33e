import { lineShaderWith } from './line.js';

/** Lines that may carry a gradient or marks; dearer, so only layers that need it use it. */
export const fancyLineShader = lineShaderWith(
  {
    given: `
out float v_share;
flat out int v_kind;
flat out vec4 v_detail;`,
    kind: `
  v_kind = (style >> 5) & 7;
  v_detail = texel(t + 3);
  if (v_kind != 0) v_dash = vec4(0.0);`,
    share: '  v_share = mix(from.z, to.z, clamp(along / len, 0.0, 1.0));',
  },
  {
    given: `
in float v_share;
flat in int v_kind;
flat in vec4 v_detail;
uniform float u_dashScale;
uniform sampler2D u_ramps;
uniform sampler2D u_atlas;
// A symbol at every gap, its top ahead.
float symbol(float gap, float size, float across) {
  float at = (mod(v_run, gap) - gap * 0.5) / (size * 64.0 / 44.0);
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
