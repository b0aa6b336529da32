/**
 * Draws a stack on the graphics card: pictures over one another, then one pass for each look.
 *
 * The arithmetic is that of picture/composing.py, on colours as they are coded. Two textures take
 * turns: what a pass reads is never what it writes.
 */
import { BLENDS } from './blending'
import type { Field, PairFlow } from './pairFlow'
import type { Blend, Framed, Keying, Lit, Place } from './stack'
import type { Titled } from './titles'

export interface Box {
  x: number
  y: number
  w: number
  h: number
}
/** A picture that another one is moved to: how far on its way it is, and how both move. */
export interface Moving {
  bitmap: ImageBitmap
  part: number
  flow: PairFlow
}
/** A picture (null: a plain colour), where it lies in the frame (in pixels) before it is placed there, how that
 * is, and how much of it is seen; how all of it is framed there; and how it is blended with what lies beneath. */
export interface Placed {
  bitmap: ImageBitmap | null
  toward?: Moving
  colour: string
  box: Box
  place: Place
  framed?: Framed
  keying?: Keying
  opacity: number
  blend: Blend
}

/** A title's picture, and where it lies in the frame (in pixels) when it is not moved from its place. */
export interface Letters extends Titled {
  bitmap: ImageBitmap
  box: Box
}

/** As many as a document may have. */
const MOST_CORNERS = 32
/** How many readings make a zoom blur, as in the file. */
const BLUR_STEPS = 16

const CORNERS = `#version 300 es
uniform bool upright; // whether what is drawn goes to the screen, whose rows count from below
out vec2 at;
void main() {
  at = vec2(gl_VertexID & 1, gl_VertexID >> 1);
  gl_Position = vec4(at.x * 2.0 - 1.0, (upright ? 1.0 - at.y * 2.0 : at.y * 2.0 - 1.0), 0.0, 1.0);
}`
const PASS = (body: string, uniforms = '') => `#version 300 es
precision highp float;
uniform sampler2D picture;
${uniforms}
in vec2 at;
out vec4 colour;
void main() { ${body} }`
/** A picture or a plain colour that is moved, grown and turned, where the frame shows it. */
const LAID = PASS(
  `vec2 place = at * size, off = place - size * 0.5 - move;
  vec2 own = vec2(off.x * turn.x + off.y * turn.y, off.y * turn.x - off.x * turn.y) / scale;
  vec2 edge = inside((size * 0.5 - abs(own)) * scale);
  vec2 reach = (sides.zw - sides.xy) * 0.5, far = place - (sides.xy + sides.zw) * 0.5;
  vec2 side = inside(reach - abs(far));
  float near = length(far / reach) + TINY;
  float ellipse = inside(vec2((1.0 - near) * near / (length(far / (reach * reach)) + TINY))).x;
  float seen = mask == 0.0 ? side.x * side.y : mask == 1.0 ? ellipse : mask == 2.0 ? 1.0 - ellipse
    : inside(vec2(within_corners(far, reach))).x;
  // One that is not framed ends where the frame does: at its edge the last of its dots are read.
  vec2 apart = (whole == 1.0 ? own : clamp(own, 0.5 - size * 0.5, size * 0.5 - 0.5)) - shifted;
  vec2 framed = vec2(apart.x * bent.x + apart.y * bent.y, apart.y * bent.x - apart.x * bent.y) / grown;
  vec2 within = (framed + size * 0.5 - lies.xy) / lies.zw;
  vec2 there = inside((0.5 - abs(within - 0.5)) * dots);
  vec3 read = level > 0.0 ? textureLod(picture, within, level).rgb : texture(picture, within).rgb;
  vec3 own_colour = filled == 1.0 ? plain : read * there.x * there.y;
  if (key.z > 0.0) {
    float luma = dot(own_colour, vec3(0.2126, 0.7152, 0.0722));
    vec2 off_grey = vec2(own_colour.b - luma, own_colour.r - luma) / DIFFERENCES;
    float share = (dot(off_grey, key.xy) - abs(off_grey.x * key.y - off_grey.y * key.x)) / key.z;
    seen *= clamp((1.0 - near_key - share) / soft, 0.0, 1.0);
    off_grey -= spill * key.z * max(share, 0.0) * key.xy;
    own_colour.br = luma + off_grey * DIFFERENCES;
    own_colour.g = (luma - 0.2126 * own_colour.r - 0.0722 * own_colour.b) / 0.7152;
  }
  colour = vec4(own_colour, opacity * seen * edge.x * edge.y);`,
  `uniform vec2 size, move, turn, shifted, bent, dots; uniform vec3 plain, key; uniform vec4 lies, sides;
  uniform float opacity, scale, mask, filled, whole, grown, level, near_key, soft, spill, count;
  uniform vec2 corners[${MOST_CORNERS}];
  const float TINY = 1e-6;
  const vec2 DIFFERENCES = vec2(1.8556, 1.5748);
  vec2 inside(vec2 far) { return clamp(far + 0.5, 0.0, 1.0); }
  float within_corners(vec2 far, vec2 reach) {
    float away = 1e9, sign = -1.0;
    for (int at = 0; at < ${MOST_CORNERS}; at++) {
      if (float(at) >= count) break;
      vec2 one = corners[at] * reach, other = corners[float(at) + 1.0 < count ? at + 1 : 0] * reach;
      vec2 side = other - one, off = far - one;
      away = min(away, length(off - side * clamp(dot(off, side) / dot(side, side), 0.0, 1.0)));
      bvec3 crossed = bvec3(far.y >= one.y, far.y < other.y, side.x * off.y > side.y * off.x);
      if (all(crossed) || !any(crossed)) sign = -sign;
    }
    return away * sign;
  }`,
)
/** The picture of a title, whose colours weigh as much as they cover, moved, grown and turned. */
const LETTERED = PASS(
  `vec2 off = at * size - middle;
  vec2 own = vec2(off.x * turn.x + off.y * turn.y, off.y * turn.x - off.x * turn.y) / scale;
  colour = texture(picture, own / dots + 0.5) * opacity;`,
  'uniform vec2 size, middle, turn, dots; uniform float scale, opacity;',
)
/** What is between two pictures, each read where it is found; where that is not trusted, as they lie. */
const BETWEEN = PASS(
  `vec4 ways = texture(motion, at);
  vec3 one = texture(picture, at + ways.zw * part / size).rgb;
  vec3 two = texture(other, at + ways.xy * (1.0 - part) / size).rgb;
  vec3 lies = mix(texture(picture, at).rgb, texture(other, at).rgb, part);
  colour = vec4(mix(lies, mix(one, two, part), texture(trust, at).r), 1.0);`,
  'uniform sampler2D other, motion, trust; uniform vec2 size; uniform float part;',
)
/** The texture units of its pictures and fields. */
const UNITS = { picture: 0, other: 1, motion: 2, trust: 3 }
const MASKS: Place['mask'][] = ['box', 'ellipse', 'outside', 'polygon']
/** A picture or a plain colour over all that is seen, blended with it. */
const BLENDED = (mode: Exclude<Blend, 'normal'>) =>
  PASS(
    `vec3 b = texture(picture, at).rgb, s = filled == 1.0 ? plain : texture(other, at).rgb;
    colour = vec4(mix(b, blended(b, s), opacity), 1.0);`,
    `uniform sampler2D other; uniform float opacity, filled; uniform vec3 plain; ${BLENDS[mode]}`,
  )
const COPY = PASS('colour = vec4(texture(picture, at).rgb, 1.0);')
/** One pass for each kind of look: its parameters are the columns that the core gives, and its colour. */
const LOOKS: Record<Lit['kind'], string> = {
  flash: PASS(
    'colour = vec4(mix(texture(picture, at).rgb, plain, light), 1.0);',
    'uniform float light; uniform vec3 plain;',
  ),
  dim: PASS('colour = vec4(texture(picture, at).rgb * (1.0 - by), 1.0);', 'uniform float by;'),
  drain: PASS(
    `vec3 full = texture(picture, at).rgb;
    colour = vec4(mix(full, vec3(dot(full, vec3(0.2126, 0.7152, 0.0722))), by), 1.0);`,
    'uniform float by;',
  ),
  move: PASS(
    `vec2 off = at * size - size * (0.5 + vec2(x, y));
    float angle = radians(turn), along = cos(angle), over = sin(angle);
    vec2 own = vec2(off.x * along + off.y * over, off.y * along - off.x * over) / scale / size + 0.5;
    colour = vec4(texture(picture, 1.0 - abs(1.0 - mod(own, 2.0))).rgb, 1.0);`,
    'uniform vec2 size; uniform float x, y, scale, turn;',
  ),
  'zoom-blur': PASS(
    `vec3 sum = vec3(0.0);
    for (int step = 0; step < ${BLUR_STEPS}; step++)
      sum += texture(picture, mix(at, vec2(x, y), by * float(step) / float(${BLUR_STEPS - 1}))).rgb;
    colour = vec4(sum / float(${BLUR_STEPS}), 1.0);`,
    'uniform float by, x, y;',
  ),
  letterbox: PASS(
    `float bar = 2.0 * round(size.y * by / 4.0), row = at.y * size.y;
    bool barred = row < bar || row > size.y - bar;
    colour = vec4(barred ? vec3(0.0) : texture(picture, at).rgb, 1.0);`,
    'uniform vec2 size; uniform float by;',
  ),
}

/** What a program is given, by name: numbers and colours. */
type Values = Record<string, number | number[]>

/** Red, green and blue of a colour in hexadecimal, 0 to 1. */
const channels = (colour: string) => [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16) / 255)

/** What `LAID` is told of a place in a frame of this size. What only moves, moves by whole pixels. */
function placing(place: Place, width: number, height: number): Values {
  const { x, y, scale, turn, left, top, right, bottom, mask, corners } = place
  const moves = mask === 'box' && scale === 1 && turn === 0
  const whole = moves ? Math.round : (value: number) => value
  const radians = (turn * Math.PI) / 180
  return {
    size: [width, height],
    move: [whole(x * width), whole(y * height)],
    turn: [Math.cos(radians), Math.sin(radians)],
    sides: [whole(left * width), whole(top * height), whole(right * width), whole(bottom * height)],
    scale,
    mask: MASKS.indexOf(mask),
    corners: corners.flatMap(({ x, y }) => [x, y]),
    count: corners.length,
  }
}

/** What it is told of how a picture is framed in a frame of this size. */
function framing(framed: Framed | undefined, width: number, height: number): Values {
  const { x, y, scale, turn } = framed ?? { x: 0, y: 0, scale: 1, turn: 0 }
  const radians = (turn * Math.PI) / 180
  const bent = [Math.cos(radians), Math.sin(radians)]
  return { shifted: [x * width, y * height], bent, grown: scale, whole: framed ? 1 : 0 }
}

/** What it is told of a background that is keyed out: the way of its colour from grey, and how far. */
function keying(of: Keying | undefined): Values {
  if (!of) return { key: [0, 0, 0] }
  const [red, green, blue] = channels(of.colour) as [number, number, number]
  const luma = 0.2126 * red + 0.7152 * green + 0.0722 * blue
  const [u, v] = [(blue - luma) / 1.8556, (red - luma) / 1.5748]
  const far = Math.hypot(u, v)
  return { key: [u / far, v / far, far], near_key: of.near!, soft: of.soft!, spill: of.spill! }
}

/** How many dots a framed picture has, over one of which its edge is soft: at least as many as the file's. */
const dotsOf = (bitmap: ImageBitmap | null, { w, h }: Box, level: number) =>
  [Math.max(bitmap?.width ?? 0, w), Math.max(bitmap?.height ?? 0, h)].map((side) => side / 2 ** level)

/** What is drawn into, to be read by a later pass. */
interface Target {
  texture: WebGLTexture
  buffer: WebGLFramebuffer
}

export class Composer {
  private readonly programs = new Map<string, WebGLProgram>()
  private readonly picture: WebGLTexture
  private readonly targets: Target[]
  /** What is between two pictures, and what it is drawn from. */
  private readonly between: Target
  /** A picture before it is blended with what lies beneath it. */
  private readonly aside: Target
  /** Half floats where they can be drawn into: what lies over one another is rounded once, at the end. */
  private readonly stored: readonly [inside: number, type: number]
  private readonly fields: Record<'other' | 'motion' | 'trust', WebGLTexture>

  private constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly gl: WebGL2RenderingContext,
  ) {
    this.stored = gl.getExtension('EXT_color_buffer_float')
      ? [gl.RGBA16F, gl.HALF_FLOAT]
      : [gl.RGBA8, gl.UNSIGNED_BYTE]
    this.picture = this.texture()
    const target = (): Target => ({ texture: this.texture(), buffer: gl.createFramebuffer()! })
    this.targets = [target(), target()]
    this.between = target()
    this.aside = target()
    this.fields = { other: this.texture(), motion: this.texture(), trust: this.texture() }
  }

  /** A composer, or null where there is no WebGL2. */
  static make(): Composer | null {
    const canvas = new OffscreenCanvas(0, 0)
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false })
    return gl && new Composer(canvas, gl)
  }

  /** Draw pictures from the ground up, on black, what is done to the whole of it, and titles over that. */
  draw(width: number, height: number, pictures: Placed[], looks: Lit[], titles: Letters[]): OffscreenCanvas {
    const { gl } = this
    this.resize(width, height)
    let now = 0
    /** A pass that reads all that is there so far. */
    const over = (fragment: string, values: Values) => {
      this.into(1 - now)
      gl.bindTexture(gl.TEXTURE_2D, this.targets[now]!.texture)
      this.pass(fragment, values)
      now = 1 - now
      this.into(now)
    }
    this.into(now)
    gl.clearColor(0, 0, 0, 1)
    gl.clear(gl.COLOR_BUFFER_BIT)
    for (const picture of pictures) {
      const { blend, colour, opacity } = picture
      if (picture.bitmap && picture.toward) {
        this.move(picture.bitmap, picture.toward)
        gl.viewport(0, 0, width, height)
        this.into(now)
      }
      if (blend === 'normal') this.lay(width, height, picture)
      else {
        if (picture.bitmap) this.layAside(width, height, { ...picture, opacity: 1 })
        over(BLENDED(blend), { opacity, plain: channels(colour), filled: picture.bitmap ? 0 : 1 })
      }
    }
    for (const { kind, values, colour } of looks)
      over(LOOKS[kind], { ...values, size: [width, height], plain: channels(colour) })
    for (const title of titles) this.letter(width, height, title)
    gl.bindFramebuffer(gl.FRAMEBUFFER, null)
    gl.bindTexture(gl.TEXTURE_2D, this.targets[now]!.texture)
    this.pass(COPY, {}, true)
    return this.canvas
  }

  /** Lay a picture alone, for the next pass to blend it. */
  private layAside(width: number, height: number, picture: Placed): void {
    const { gl } = this
    this.allot(this.aside, width, height)
    gl.clear(gl.COLOR_BUFFER_BIT)
    this.lay(width, height, picture)
    gl.activeTexture(gl.TEXTURE0 + UNITS.other)
    gl.bindTexture(gl.TEXTURE_2D, this.aside.texture)
    gl.activeTexture(gl.TEXTURE0 + UNITS.picture)
  }

  /** Lay a picture over what is there so far. */
  private lay(width: number, height: number, picture: Placed): void {
    const { gl } = this
    const { bitmap, toward, colour, box, place, framed, opacity } = picture
    gl.enable(gl.BLEND)
    gl.blendFuncSeparate(gl.SRC_ALPHA, gl.ONE_MINUS_SRC_ALPHA, gl.ONE, gl.ONE)
    gl.bindTexture(gl.TEXTURE_2D, toward ? this.between.texture : this.picture)
    if (bitmap && !toward) gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, bitmap)
    // What is shrunk is halved first, as in the file.
    const shrunk = bitmap ? bitmap.width / (box.w * place.scale * (framed?.scale ?? 1)) : 1
    const level = Math.floor(Math.log2(Math.max(1, shrunk) + 1e-6))
    if (level) gl.generateMipmap(gl.TEXTURE_2D)
    const filter = (by: number) => gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, by)
    if (level) filter(gl.LINEAR_MIPMAP_NEAREST)
    this.pass(LAID, {
      ...placing(place, width, height),
      ...framing(framed, width, height),
      ...keying(picture.keying),
      level,
      dots: framed ? dotsOf(bitmap, box, level) : [box.w, box.h],
      lies: [box.x, box.y, box.w, box.h],
      plain: channels(colour),
      filled: bitmap ? 0 : 1,
      opacity,
    })
    if (level) filter(gl.LINEAR)
    gl.disable(gl.BLEND)
  }

  /** Write a title over what is there so far. */
  private letter(width: number, height: number, title: Letters): void {
    const { gl } = this
    const { bitmap, box, opacity, x, y, scale, turn } = title
    const still = x === 0 && y === 0 && scale === 1 && turn === 0
    // Where it lies still each dot of it is one of the picture, as in the file.
    const [left, top] = still ? [box.x, box.y].map((side) => 2 * Math.round(side / 2)) : [box.x, box.y]
    const radians = (turn * Math.PI) / 180
    gl.enable(gl.BLEND)
    gl.blendFuncSeparate(gl.ONE, gl.ONE_MINUS_SRC_ALPHA, gl.ONE, gl.ONE)
    gl.bindTexture(gl.TEXTURE_2D, this.picture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, bitmap)
    // One that is shrunk is halved first, so that no stroke is lost.
    const level = box.w * scale < bitmap.width / 2
    if (level) gl.generateMipmap(gl.TEXTURE_2D)
    const filter = (by: number) => gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, by)
    if (level) filter(gl.LINEAR_MIPMAP_LINEAR)
    this.pass(LETTERED, {
      size: [width, height],
      middle: [left! + box.w / 2 + x * width, top! + box.h / 2 + y * height],
      turn: [Math.cos(radians), Math.sin(radians)],
      dots: [box.w, box.h],
      scale,
      opacity,
    })
    if (level) filter(gl.LINEAR)
    gl.disable(gl.BLEND)
  }

  /** Draw what is between two pictures, for the next one to be laid. */
  private move(bitmap: ImageBitmap, { bitmap: other, part, flow }: Moving): void {
    const { gl } = this
    const { width, height } = bitmap
    this.allot(this.between, width, height)
    gl.viewport(0, 0, width, height)
    const unit = (number: number, texture: WebGLTexture) => {
      gl.activeTexture(gl.TEXTURE0 + number)
      gl.bindTexture(gl.TEXTURE_2D, texture)
    }
    unit(UNITS.trust, this.fields.trust)
    this.upload(flow.trust, gl.R8, gl.RED, gl.UNSIGNED_BYTE)
    unit(UNITS.motion, this.fields.motion)
    this.upload(flow.motion, gl.RGBA16F, gl.RGBA, gl.HALF_FLOAT)
    unit(UNITS.other, this.fields.other)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, other)
    unit(UNITS.picture, this.picture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, bitmap)
    this.pass(BETWEEN, { size: [width, height], part })
  }

  private upload(field: Field<ArrayBufferView>, inside: number, format: number, type: number): void {
    const { gl } = this
    // Rows of single bytes need not end on a word.
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1)
    gl.texImage2D(gl.TEXTURE_2D, 0, inside, field.width, field.height, 0, format, type, field.values)
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4)
  }

  private resize(width: number, height: number): void {
    const { gl, canvas } = this
    if (canvas.width === width && canvas.height === height) return
    Object.assign(canvas, { width, height })
    gl.viewport(0, 0, width, height)
    for (const target of this.targets) this.allot(target, width, height)
  }

  /** Give a target its size. */
  private allot({ texture, buffer }: Target, width: number, height: number): void {
    const { gl } = this
    const [inside, type] = this.stored
    gl.bindTexture(gl.TEXTURE_2D, texture)
    gl.texImage2D(gl.TEXTURE_2D, 0, inside, width, height, 0, gl.RGBA, type, null)
    gl.bindFramebuffer(gl.FRAMEBUFFER, buffer)
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0)
  }

  private into(target: number): void {
    this.gl.bindFramebuffer(this.gl.FRAMEBUFFER, this.targets[target]!.buffer)
  }

  /** Draw what is bound through one program. */
  private pass(fragment: string, values: Values, upright = false): void {
    const { gl } = this
    const program = this.program(fragment)
    const at = (name: string) => gl.getUniformLocation(program, name)
    gl.useProgram(program)
    gl.uniform1i(at('upright'), upright ? 1 : 0)
    for (const [name, unit] of Object.entries(UNITS)) gl.uniform1i(at(name), unit)
    for (const [name, value] of Object.entries(values))
      if (typeof value === 'number') gl.uniform1f(at(name), value)
      else if (name === 'corners') {
        if (value.length) gl.uniform2fv(at(name), value)
      } else gl[`uniform${value.length as 2 | 3 | 4}fv`](at(name), value)
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }

  private program(fragment: string): WebGLProgram {
    const { gl } = this
    const known = this.programs.get(fragment)
    if (known) return known
    const program = gl.createProgram()
    for (const [kind, source] of [
      [gl.VERTEX_SHADER, CORNERS],
      [gl.FRAGMENT_SHADER, fragment],
    ] as const) {
      const shader = gl.createShader(kind)!
      gl.shaderSource(shader, source)
      gl.compileShader(shader)
      gl.attachShader(program, shader)
    }
    gl.linkProgram(program)
    this.programs.set(fragment, program)
    return program
  }

  private texture(): WebGLTexture {
    const { gl } = this
    const texture = gl.createTexture()
    gl.bindTexture(gl.TEXTURE_2D, texture)
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
      gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE)
    for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, filter, gl.LINEAR)
    return texture
  }
}
