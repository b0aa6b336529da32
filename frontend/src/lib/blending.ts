/**
 * The blend modes of picture/blending.py for the graphics card: B(cb, cs) of W3C Compositing and Blending
 * Level 1, as functions `blended(b, s)`.
 */
import type { Blend } from './stack'

const each = (body: string) =>
  `float one(float b, float s) { ${body} }
   vec3 blended(vec3 b, vec3 s) { return vec3(one(b.r, s.r), one(b.g, s.g), one(b.b, s.b)); }`
const whole = (body: string) => `vec3 blended(vec3 b, vec3 s) { ${body} }`
const hard = (b: string, s: string) =>
  `return ${s} <= 0.5 ? 2.0 * ${b} * ${s} : ${b} + (2.0 * ${s} - 1.0) - ${b} * (2.0 * ${s} - 1.0);`

export const BLENDS: Record<Exclude<Blend, 'normal'>, string> = {
  multiply: whole('return b * s;'),
  screen: whole('return b + s - b * s;'),
  overlay: each(hard('s', 'b')),
  darken: whole('return min(b, s);'),
  lighten: whole('return max(b, s);'),
  'color-dodge': each('return b <= 0.0 ? 0.0 : s >= 1.0 ? 1.0 : min(1.0, b / (1.0 - s));'),
  'color-burn': each('return b >= 1.0 ? 1.0 : s <= 0.0 ? 0.0 : 1.0 - min(1.0, (1.0 - b) / s);'),
  'hard-light': each(hard('b', 's')),
  'soft-light': each(
    `float d = b <= 0.25 ? ((16.0 * b - 12.0) * b + 4.0) * b : sqrt(b);
     return s <= 0.5 ? b - (1.0 - 2.0 * s) * b * (1.0 - b) : b + (2.0 * s - 1.0) * (d - b);`,
  ),
  difference: whole('return abs(b - s);'),
  exclusion: whole('return b + s - 2.0 * b * s;'),
  color: whole(
    `vec3 weights = vec3(0.3, 0.59, 0.11);
     vec3 moved = s + dot(b, weights) - dot(s, weights);
     float light = dot(moved, weights);
     float low = min(moved.r, min(moved.g, moved.b)), high = max(moved.r, max(moved.g, moved.b));
     if (low < 0.0) moved = light + (moved - light) * light / max(light - low, 1e-6);
     if (high > 1.0) moved = light + (moved - light) * (1.0 - light) / max(high - light, 1e-6);
     return moved;`,
  ),
}
