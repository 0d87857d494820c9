// The loops that touch every node of a large scene, in AssemblyScript: scripts/compile-kernels.mjs compiles
// them to WebAssembly with SIMD. `src/columns/plain-kernels.ts` computes the same in JavaScript; tests hold
// the two against each other. All arrays are columns of `src/columns/columns.ts`; where they begin stands in
// a header at the start of the memory, in the order of `HEADER` in `src/columns/wasm-kernels.ts`.

const ALIVE: u32 = 1;
const VISIBLE: u32 = 2;
const SHOWN: u32 = 4;
const DIRTY: u32 = 8;
const MATRIX: u32 = 16;
const MIRRORED: u32 = 32;
const PLACED: u32 = 64;

const ROTATION: usize = 4;
const SCALE: usize = 8;
const LOCAL: usize = 12;
const WORLD: usize = 16;
const STRETCH: usize = 20;
const FLAGS: usize = 24;
const MOVED_AT: usize = 28;
const PARENT: usize = 32;
const FIRST_ITEM: usize = 36;
const AFFECTED_ROWS: usize = 40;
const ITEM_NEXT: usize = 44;
const LOCAL_SPHERE: usize = 48;
const WORLD_SPHERE: usize = 52;
const VIEW_KEYS: usize = 56;
const CHANGED_ITEMS: usize = 60;
/** Results: the rows that the last update moved lie in FROM..TO; a row whose matrix is no number, or -1. */
const MOVED_FROM: usize = 64;
const MOVED_TO: usize = 68;
const BAD_ROW: usize = 72;
/** Six planes of four floats each, then the way of looking and minus the camera's place along it. */
const PLANES: usize = 128;
const DEPTH: usize = 224;

/** Key of what is not to be shown; see `viewKeys`. */
const HIDDEN: i32 = 0x20000000;

/** Flags of four rows at once: all alive, visible and dirty; none with a matrix; none or all placed. */
const FOUR_READY: u32 = 0x0b0b0b0b;
const FOUR_MATRIX: u32 = 0x10101010;
const FOUR_PLACED: u32 = 0x40404040;

/** Updates rows `from` to `to` that are dirty or below a moved one. Returns how many moved. */
export function updateRange(from: u32, to: u32, stamp: u32): u32 {
  const flags: usize = load<u32>(FLAGS);
  const parent: usize = load<u32>(PARENT);
  const movedAt: usize = load<u32>(MOVED_AT);
  let moved: u32 = 0;
  let first: u32 = to;
  let last: u32 = from;
  let row = from;
  while (row < to) {
    if (row + 4 <= to) {
      const four = load<u32>(flags + row);
      const placed = four & FOUR_PLACED;
      if ((four & (FOUR_READY | FOUR_MATRIX)) === FOUR_READY && (placed === 0 || placed === FOUR_PLACED)) {
        const up = load<i32>(parent + (row << 2));
        const ups = v128.load(parent + (row << 2));
        if (up >= 0 && i32x4.all_true(i32x4.eq(ups, i32x4.splat(up))) && placeFour(row, up, four)) {
          v128.store(movedAt + (row << 2), i32x4.splat(stamp));
          if (moved === 0) first = row;
          moved += 4;
          row += 4;
          last = row;
          continue;
        }
      }
    }
    const before: u32 = load<u8>(flags + row);
    const up = load<i32>(parent + (row << 2));
    const isMoved = (before & DIRTY) !== 0 || (up >= 0 && load<u32>(movedAt + ((<usize>up) << 2)) === stamp);
    if (isMoved && (before & ALIVE) !== 0) {
      place(row, up, before, flags);
      store<u32>(movedAt + (row << 2), stamp);
      if (moved === 0) first = row;
      last = row + 1;
      moved++;
    }
    row++;
  }
  store<u32>(MOVED_FROM, first);
  store<u32>(MOVED_TO, last);
  return moved;
}

/**
 * Four neighbouring rows under one parent, with a lane for each: a variable holds one number of all four. False,
 * with nothing done, when a matrix is no number.
 */
function placeFour(row: u32, up: i32, before: u32): bool {
  let a0: v128, a1: v128, a2: v128, a3: v128;
  let b0: v128, b1: v128, b2: v128, b3: v128;
  let c0: v128, c1: v128, c2: v128, c3: v128;
  let stretch: v128;
  let mirrors: v128;
  const isPlaced = (before & PLACED) !== 0;
  if (isPlaced) {
    const at: usize = load<u32>(WORLD) + row * 48;
    let l01 = low(v128.load(at), v128.load(at, 48));
    let l23 = low(v128.load(at, 96), v128.load(at, 144));
    let h01 = high(v128.load(at), v128.load(at, 48));
    let h23 = high(v128.load(at, 96), v128.load(at, 144));
    a0 = even(l01, l23);
    a1 = odd(l01, l23);
    a2 = even(h01, h23);
    a3 = odd(h01, h23);
    l01 = low(v128.load(at, 16), v128.load(at, 64));
    l23 = low(v128.load(at, 112), v128.load(at, 160));
    h01 = high(v128.load(at, 16), v128.load(at, 64));
    h23 = high(v128.load(at, 112), v128.load(at, 160));
    b0 = even(l01, l23);
    b1 = odd(l01, l23);
    b2 = even(h01, h23);
    b3 = odd(h01, h23);
    l01 = low(v128.load(at, 32), v128.load(at, 80));
    l23 = low(v128.load(at, 128), v128.load(at, 176));
    h01 = high(v128.load(at, 32), v128.load(at, 80));
    h23 = high(v128.load(at, 128), v128.load(at, 176));
    c0 = even(l01, l23);
    c1 = odd(l01, l23);
    c2 = even(h01, h23);
    c3 = odd(h01, h23);
    const moves = f32x4.add(a3, f32x4.add(b3, c3));
    const xs = dot(a0, a0, b0, b0, c0, c0);
    const ys = dot(a1, a1, b1, b1, c1, c1);
    const zs = dot(a2, a2, b2, b2, c2, c2);
    const slack = f32x4.add(
      f32x4.add(f32x4.abs(dot(a0, a1, b0, b1, c0, c1)), f32x4.abs(dot(a1, a2, b1, b2, c1, c2))),
      f32x4.abs(dot(a2, a0, b2, b0, c2, c0)),
    );
    // A number times zero is zero, unless it is none or infinite.
    const sum = f32x4.add(moves, f32x4.add(f32x4.add(xs, ys), f32x4.add(zs, slack)));
    if (v128.any_true(f32x4.ne(f32x4.mul(sum, f32x4.splat(0)), f32x4.splat(0)))) return false;
    const longest = f32x4.max(xs, f32x4.max(ys, zs));
    const isSheared = f32x4.ge(slack, f32x4.mul(longest, f32x4.splat(1e-6)));
    stretch = f32x4.sqrt(f32x4.add(longest, v128.and(slack, isSheared)));
    mirrors = f32x4.lt(
      dot(
        a0,
        f32x4.sub(f32x4.mul(b1, c2), f32x4.mul(b2, c1)),
        a1,
        f32x4.sub(f32x4.mul(b2, c0), f32x4.mul(b0, c2)),
        a2,
        f32x4.sub(f32x4.mul(b0, c1), f32x4.mul(b1, c0)),
      ),
      f32x4.splat(0),
    );
  } else {
    const r: usize = load<u32>(ROTATION) + (row << 4);
    const l01 = low(v128.load(r), v128.load(r, 16));
    const l23 = low(v128.load(r, 32), v128.load(r, 48));
    const h01 = high(v128.load(r), v128.load(r, 16));
    const h23 = high(v128.load(r, 32), v128.load(r, 48));
    const x = even(l01, l23);
    const y = odd(l01, l23);
    const z = even(h01, h23);
    const w = odd(h01, h23);
    const t: usize = load<u32>(0) + row * 12;
    let p = v128.load(t);
    let q = v128.load(t, 16);
    let s = v128.load(t, 32);
    a3 = firsts(p, q, s);
    b3 = seconds(p, q, s);
    c3 = thirds(p, q, s);
    const scale: usize = load<u32>(SCALE) + row * 12;
    p = v128.load(scale);
    q = v128.load(scale, 16);
    s = v128.load(scale, 32);
    const sx = firsts(p, q, s);
    const sy = seconds(p, q, s);
    const sz = thirds(p, q, s);
    const x2 = f32x4.add(x, x);
    const y2 = f32x4.add(y, y);
    const z2 = f32x4.add(z, z);
    const xx = f32x4.mul(x, x2);
    const yy = f32x4.mul(y, y2);
    const zz = f32x4.mul(z, z2);
    const xy = f32x4.mul(x, y2);
    const xz = f32x4.mul(x, z2);
    const yz = f32x4.mul(y, z2);
    const wx = f32x4.mul(w, x2);
    const wy = f32x4.mul(w, y2);
    const wz = f32x4.mul(w, z2);
    const one = f32x4.splat(1);
    a0 = f32x4.mul(f32x4.sub(f32x4.sub(one, yy), zz), sx);
    a1 = f32x4.mul(f32x4.sub(xy, wz), sy);
    a2 = f32x4.mul(f32x4.add(xz, wy), sz);
    b0 = f32x4.mul(f32x4.add(xy, wz), sx);
    b1 = f32x4.mul(f32x4.sub(f32x4.sub(one, xx), zz), sy);
    b2 = f32x4.mul(f32x4.sub(yz, wx), sz);
    c0 = f32x4.mul(f32x4.sub(xz, wy), sx);
    c1 = f32x4.mul(f32x4.add(yz, wx), sy);
    c2 = f32x4.mul(f32x4.sub(f32x4.sub(one, xx), yy), sz);
    stretch = f32x4.max(f32x4.abs(sx), f32x4.max(f32x4.abs(sy), f32x4.abs(sz)));
    mirrors = f32x4.lt(f32x4.mul(f32x4.mul(sx, sy), sz), f32x4.splat(0));
  }
  const flags: usize = load<u32>(FLAGS);
  const above: u32 = load<u8>(flags + up);
  const world: usize = load<u32>(WORLD);
  if (up > 0 && !isPlaced) {
    const p = world + up * 48;
    const m0 = a0;
    const m1 = a1;
    const m2 = a2;
    const m3 = a3;
    const n0 = b0;
    const n1 = b1;
    const n2 = b2;
    const n3 = b3;
    const zero = f32x4.splat(0);
    a0 = through(p, m0, n0, c0, zero);
    a1 = through(p, m1, n1, c1, zero);
    a2 = through(p, m2, n2, c2, zero);
    a3 = through(p, m3, n3, c3, v128.load32_splat(p, 12));
    b0 = through(p + 16, m0, n0, c0, zero);
    b1 = through(p + 16, m1, n1, c1, zero);
    b2 = through(p + 16, m2, n2, c2, zero);
    b3 = through(p + 16, m3, n3, c3, v128.load32_splat(p, 28));
    c0 = through(p + 32, m0, n0, c0, zero);
    c1 = through(p + 32, m1, n1, c1, zero);
    c2 = through(p + 32, m2, n2, c2, zero);
    c3 = through(p + 32, m3, n3, c3, v128.load32_splat(p, 44));
    stretch = f32x4.mul(stretch, v128.load32_splat(<usize>load<u32>(STRETCH) + (up << 2)));
    if ((above & MIRRORED) !== 0) mirrors = v128.not(mirrors);
  }
  if (!isPlaced) {
    const w = world + row * 48;
    storeFour(w, a0, a1, a2, a3);
    storeFour(w + 16, b0, b1, b2, b3);
    storeFour(w + 32, c0, c1, c2, c3);
  }
  v128.store(<usize>load<u32>(STRETCH) + (row << 2), stretch);
  const m: u32 = i32x4.bitmask(mirrors);
  const shown: u32 = (above & SHOWN) !== 0 ? 0x04040404 : 0;
  const mirrored = ((m & 1) << 5) | ((m & 2) << 12) | ((m & 4) << 19) | ((m & 8) << 26);
  store<u32>(flags + row, (before & 0xd3d3d3d3) | shown | mirrored);

  const items = v128.load(<usize>load<u32>(FIRST_ITEM) + (row << 2));
  const item = i32x4.extract_lane(items, 0);
  const inRow = i32x4.eq(items, i32x4.add(i32x4.splat(item), i32x4(0, 1, 2, 3)));
  const itemNext: usize = load<u32>(ITEM_NEXT);
  if (
    item < 0 ||
    !i32x4.all_true(inRow) ||
    !i32x4.all_true(i32x4.eq(v128.load(itemNext + (item << 2)), i32x4.splat(-1)))
  ) {
    for (let k: u32 = 0; k < 4; k++) placeItems(row + k, load<u8>(flags + row + k));
    return true;
  }
  const local: usize = <usize>load<u32>(LOCAL_SPHERE) + (item << 4);
  const l01 = low(v128.load(local), v128.load(local, 16));
  const l23 = low(v128.load(local, 32), v128.load(local, 48));
  const h01 = high(v128.load(local), v128.load(local, 16));
  const h23 = high(v128.load(local, 32), v128.load(local, 48));
  const x = even(l01, l23);
  const y = odd(l01, l23);
  const z = even(h01, h23);
  let radius = f32x4.add(f32x4.mul(odd(h01, h23), stretch), f32x4.splat(TINY));
  if (shown === 0) radius = f32x4.splat(Infinity);
  else radius = v128.xor(radius, i32x4.shl(mirrors, 31));
  storeFour(
    <usize>load<u32>(WORLD_SPHERE) + (item << 4),
    f32x4.add(dot(a0, x, a1, y, a2, z), a3),
    f32x4.add(dot(b0, x, b1, y, b2, z), b3),
    f32x4.add(dot(c0, x, c1, y, c2, z), c3),
    radius,
    16,
  );
  return true;
}

function dot(a: v128, x: v128, b: v128, y: v128, c: v128, z: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(a, x), f32x4.mul(b, y)), f32x4.mul(c, z));
}

/** One element of a parent's row times columns of four. */
function through(p: usize, a: v128, b: v128, c: v128, move: v128): v128 {
  return f32x4.add(
    dot(v128.load32_splat(p), a, v128.load32_splat(p, 4), b, v128.load32_splat(p, 8), c),
    move,
  );
}

// Four vectors of four turned about: low and high of the first two and of the last two, then even and odd.
function low(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 4, 1, 5);
}
function high(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 6, 3, 7);
}
function even(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 0, 1, 4, 5);
}
function odd(a: v128, b: v128): v128 {
  return v128.shuffle<f32>(a, b, 2, 3, 6, 7);
}

// Of four triples in three vectors.
function firsts(p: v128, q: v128, s: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(p, q, 0, 3, 6, 6), s, 0, 1, 2, 5);
}
function seconds(p: v128, q: v128, s: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(p, q, 1, 4, 7, 7), s, 0, 1, 2, 6);
}
function thirds(p: v128, q: v128, s: v128): v128 {
  return v128.shuffle<f32>(v128.shuffle<f32>(p, q, 2, 5, 5, 5), s, 0, 1, 4, 7);
}

/** Writes four vectors that are turned about, `stride` of a row or a sphere apart. */
function storeFour(at: usize, a: v128, b: v128, c: v128, d: v128, stride: usize = 48): void {
  const l01 = low(a, b);
  const l23 = low(c, d);
  const h01 = high(a, b);
  const h23 = high(c, d);
  v128.store(at, even(l01, l23));
  v128.store(at + stride, odd(l01, l23));
  v128.store(at + stride * 2, even(h01, h23));
  v128.store(at + stride * 3, odd(h01, h23));
}

/** Updates the first `count` rows of `affectedRows`: parents stand before their children. */
export function updateRows(count: u32): void {
  const flags: usize = load<u32>(FLAGS);
  const parent: usize = load<u32>(PARENT);
  const rows: usize = load<u32>(AFFECTED_ROWS);
  for (let i: u32 = 0; i < count; i++) {
    const row = load<u32>(rows + (i << 2));
    place(row, load<i32>(parent + (row << 2)), load<u8>(flags + row), flags);
  }
}

/** One row's world transform, its flags, and the spheres of what it draws. */
function place(row: u32, up: i32, before: u32, flags: usize): void {
  const isPlaced = (before & PLACED) !== 0;
  const above: u32 = up < 0 ? SHOWN : load<u8>(flags + up);
  let flag = before & ~(DIRTY | SHOWN | MIRRORED);
  if ((before & VISIBLE) !== 0 && (above & SHOWN) !== 0) flag |= SHOWN;
  const at: usize = load<u32>(WORLD) + row * 48;
  let m0: v128, m1: v128, m2: v128;
  let stretch: f32;
  let mirrors: u32 = 0;
  if ((before & (MATRIX | PLACED)) !== 0) {
    const local: usize = isPlaced ? at : <usize>load<u32>(LOCAL) + row * 48;
    m0 = v128.load(local);
    m1 = v128.load(local, 16);
    m2 = v128.load(local, 32);
    // A number times zero is zero, unless it is none or infinite.
    const sum = f32x4.add(f32x4.add(m0, m1), m2);
    if (v128.any_true(f32x4.ne(f32x4.mul(sum, f32x4.splat(0)), f32x4.splat(0)))) store<i32>(BAD_ROW, row);
    stretch = largestScale(m0, m1, m2);
    if (determinant(m0, m1, m2) < 0) mirrors = MIRRORED;
  } else {
    const t: usize = load<u32>(0) + row * 12;
    const r: usize = load<u32>(ROTATION) + (row << 4);
    const s: usize = load<u32>(SCALE) + row * 12;
    const x = load<f32>(r);
    const y = load<f32>(r, 4);
    const z = load<f32>(r, 8);
    const w = load<f32>(r, 12);
    const sx = load<f32>(s);
    const sy = load<f32>(s, 4);
    const sz = load<f32>(s, 8);
    const x2 = x + x;
    const y2 = y + y;
    const z2 = z + z;
    const xx = x * x2;
    const yy = y * y2;
    const zz = z * z2;
    const xy = x * y2;
    const xz = x * z2;
    const yz = y * z2;
    const wx = w * x2;
    const wy = w * y2;
    const wz = w * z2;
    const scale = f32x4(sx, sy, sz, 1);
    m0 = f32x4.mul(f32x4(1 - yy - zz, xy - wz, xz + wy, load<f32>(t)), scale);
    m1 = f32x4.mul(f32x4(xy + wz, 1 - xx - zz, yz - wx, load<f32>(t, 4)), scale);
    m2 = f32x4.mul(f32x4(xz - wy, yz + wx, 1 - xx - yy, load<f32>(t, 8)), scale);
    stretch = max<f32>(abs<f32>(sx), max<f32>(abs<f32>(sy), abs<f32>(sz)));
    if (sx * sy * sz < 0) mirrors = MIRRORED;
  }
  // Row 0 is the scene's root and never moves: its children need no product.
  if (up > 0 && !isPlaced) {
    const p: usize = load<u32>(WORLD) + up * 48;
    const p0 = v128.load(p);
    const p1 = v128.load(p, 16);
    const p2 = v128.load(p, 32);
    const l0 = m0;
    const l1 = m1;
    const l2 = m2;
    m0 = rowOfProduct(p0, l0, l1, l2);
    m1 = rowOfProduct(p1, l0, l1, l2);
    m2 = rowOfProduct(p2, l0, l1, l2);
    stretch *= load<f32>(<usize>load<u32>(STRETCH) + (up << 2));
    mirrors ^= above & MIRRORED;
  }
  v128.store(at, m0);
  v128.store(at, m1, 16);
  v128.store(at, m2, 32);
  flag |= mirrors;
  store<f32>(<usize>load<u32>(STRETCH) + (row << 2), stretch);
  store<u8>(flags + row, flag);
  placeItems(row, flag);
}

/** The world spheres of what a row draws. */
function placeItems(row: u32, flag: u32): void {
  let item = load<i32>(<usize>load<u32>(FIRST_ITEM) + (row << 2));
  if (item < 0) return;
  const w: usize = load<u32>(WORLD) + row * 48;
  const m0 = v128.load(w);
  const m1 = v128.load(w, 16);
  const m2 = v128.load(w, 32);
  const stretch = load<f32>(<usize>load<u32>(STRETCH) + (row << 2));
  for (; item >= 0; item = load<i32>(<usize>load<u32>(ITEM_NEXT) + (item << 2))) {
    const local = v128.load(<usize>load<u32>(LOCAL_SPHERE) + (item << 4));
    const point = f32x4.replace_lane(local, 3, 1);
    const a = f32x4.mul(m0, point);
    const b = f32x4.mul(m1, point);
    const c = f32x4.mul(m2, point);
    // Sums of lanes: a and b together, c by itself.
    const ab = f32x4.add(v128.shuffle<f32>(a, b, 0, 1, 4, 5), v128.shuffle<f32>(a, b, 2, 3, 6, 7));
    const cc = f32x4.add(c, v128.shuffle<f32>(c, c, 2, 3, 2, 3));
    const sums = f32x4.add(v128.shuffle<f32>(ab, cc, 0, 2, 4, 4), v128.shuffle<f32>(ab, cc, 1, 3, 5, 5));
    let radius = f32x4.extract_lane(local, 3) * stretch + TINY;
    if ((flag & SHOWN) === 0) radius = Infinity;
    else if ((flag & MIRRORED) !== 0) radius = -radius;
    v128.store(<usize>load<u32>(WORLD_SPHERE) + (item << 4), f32x4.replace_lane(sums, 3, radius));
  }
}

/** Keeps a radius of 0 from losing its sign. */
const TINY: f32 = 1e-30;

function rowOfProduct(p: v128, m0: v128, m1: v128, m2: v128): v128 {
  const x = f32x4.mul(v128.shuffle<f32>(p, p, 0, 0, 0, 0), m0);
  const y = f32x4.mul(v128.shuffle<f32>(p, p, 1, 1, 1, 1), m1);
  const z = f32x4.mul(v128.shuffle<f32>(p, p, 2, 2, 2, 2), m2);
  return f32x4.add(f32x4.add(x, y), f32x4.add(z, v128.and(p, i32x4(0, 0, 0, -1))));
}

/** As `affineLargestScale`: exact without shear, else Gershgorin's bound. */
function largestScale(m0: v128, m1: v128, m2: v128): f32 {
  const squares = f32x4.add(f32x4.add(f32x4.mul(m0, m0), f32x4.mul(m1, m1)), f32x4.mul(m2, m2));
  const dots = f32x4.add(f32x4.add(withNext(m0), withNext(m1)), withNext(m2));
  const slacks = f32x4.abs(dots);
  const longest = max<f32>(
    f32x4.extract_lane(squares, 0),
    max<f32>(f32x4.extract_lane(squares, 1), f32x4.extract_lane(squares, 2)),
  );
  const slack = f32x4.extract_lane(slacks, 0) + f32x4.extract_lane(slacks, 1) + f32x4.extract_lane(slacks, 2);
  return sqrt<f32>(slack < longest * 1e-6 ? longest : longest + slack);
}

/** xy, yz, zx. */
function withNext(m: v128): v128 {
  return f32x4.mul(m, v128.shuffle<f32>(m, m, 1, 2, 0, 3));
}

function determinant(m0: v128, m1: v128, m2: v128): f32 {
  const cross = f32x4.sub(
    f32x4.mul(v128.shuffle<f32>(m1, m1, 1, 2, 0, 3), v128.shuffle<f32>(m2, m2, 2, 0, 1, 3)),
    f32x4.mul(v128.shuffle<f32>(m1, m1, 2, 0, 1, 3), v128.shuffle<f32>(m2, m2, 1, 2, 0, 3)),
  );
  const terms = f32x4.mul(m0, cross);
  return f32x4.extract_lane(terms, 0) + f32x4.extract_lane(terms, 1) + f32x4.extract_lane(terms, 2);
}

/**
 * Keys of items `from` to `to` (four at a time: both multiples of 4) for the view in the header: 0 outside of
 * it; HIDDEN for what is not shown; else bit 31, bit 30 when mirrored, and the upper bits of the depth. Lists the
 * items whose keys differ from those that were there, in the bits of `mask`; returns how many.
 */
export function viewKeys(from: u32, to: u32, cull: bool, mask: u32): u32 {
  const spheres: usize = load<u32>(WORLD_SPHERE);
  const keys: usize = load<u32>(VIEW_KEYS);
  const changed: usize = load<u32>(CHANGED_ITEMS);
  let count: u32 = 0;
  const infinite = f32x4.splat(Infinity);
  const zero = f32x4.splat(0);
  for (let item = from; item < to; item += 4) {
    const s = spheres + (item << 4);
    const s0 = v128.load(s);
    const s1 = v128.load(s, 16);
    const s2 = v128.load(s, 32);
    const s3 = v128.load(s, 48);
    const xy01 = v128.shuffle<f32>(s0, s1, 0, 4, 1, 5);
    const xy23 = v128.shuffle<f32>(s2, s3, 0, 4, 1, 5);
    const zr01 = v128.shuffle<f32>(s0, s1, 2, 6, 3, 7);
    const zr23 = v128.shuffle<f32>(s2, s3, 2, 6, 3, 7);
    const x = v128.shuffle<f32>(xy01, xy23, 0, 1, 4, 5);
    const y = v128.shuffle<f32>(xy01, xy23, 2, 3, 6, 7);
    const z = v128.shuffle<f32>(zr01, zr23, 0, 1, 4, 5);
    const signed = v128.shuffle<f32>(zr01, zr23, 2, 3, 6, 7);
    const radius = f32x4.abs(signed);
    let outside = zero;
    if (cull) {
      // The sign bit of a distance stays in the union.
      outside = v128.or(
        v128.or(beyond(PLANES, x, y, z, radius), beyond(PLANES + 16, x, y, z, radius)),
        v128.or(beyond(PLANES + 32, x, y, z, radius), beyond(PLANES + 48, x, y, z, radius)),
      );
      outside = v128.or(
        outside,
        v128.or(beyond(PLANES + 64, x, y, z, radius), beyond(PLANES + 80, x, y, z, radius)),
      );
    }
    const depth = f32x4.max(beyond(DEPTH, x, y, z, zero), zero);
    let key = v128.or(i32x4.shr_u(depth, 2), i32x4.splat(0x80000000));
    key = v128.or(key, i32x4.shr_u(v128.and(signed, i32x4.splat(0x80000000)), 1));
    key = v128.andnot(key, i32x4.shr_s(outside, 31));
    key = v128.bitselect(i32x4.splat(HIDDEN), key, f32x4.eq(radius, infinite));
    const at = keys + (item << 2);
    const differs = v128.and(v128.xor(key, v128.load(at)), i32x4.splat(mask));
    v128.store(at, key);
    if (!v128.any_true(differs)) continue;
    const lanes: u32 = 15 & ~(<u32>i32x4.bitmask(i32x4.eq(differs, i32x4.splat(0))));
    for (let lane: u32 = 0; lane < 4; lane++) {
      if ((lanes & (1 << lane)) !== 0) store<u32>(changed + (count++ << 2), item + lane);
    }
  }
  return count;
}

/** Distance of four spheres from a plane, their radii added: negative for what lies wholly behind it. */
function beyond(plane: usize, x: v128, y: v128, z: v128, radius: v128): v128 {
  const across = f32x4.add(f32x4.mul(v128.load32_splat(plane), x), f32x4.mul(v128.load32_splat(plane, 4), y));
  const along = f32x4.add(f32x4.mul(v128.load32_splat(plane, 8), z), v128.load32_splat(plane, 12));
  return f32x4.add(f32x4.add(across, along), radius);
}
