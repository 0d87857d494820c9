import { type Geometry, geometryFrom } from '../../geometry/geometry.js';
import { withSharedNormals } from '../../geometry/shared-normals.js';
import type { GrownFloats } from '../bytes/grown.js';
import { GrownWords, TripleNumbers } from '../bytes/grown.js';
import { cutPolygon } from '../../geometry/cut-polygon.js';

/** The lists that faces name places of. */
export interface ObjLists {
  /** 3 each, metres as they are; 2; 3. */
  positions: GrownFloats;
  coordinates: GrownFloats;
  normals: GrownFloats;
  /** 3 a place, linear; as long as `positions` where there are some. */
  colors: GrownFloats;
  /** Whether any smoothing group was named: without, edges decide. */
  hasSmoothing: boolean;
}

/** What stands for no number. */
export const NONE = 0xffffffff;
/** Angle between faces from which on an edge is sharp, where the file says nothing, radians. */
const CREASE = Math.PI / 3;

/** Faces, lines or points of one material in one object: vertices that are alike are one. */
export class ObjPart {
  private readonly vertices = new TripleNumbers();
  private readonly indices = new GrownWords();
  /** By triangle: its smoothing group, and the number of its polygon. */
  private readonly groups = new GrownWords();
  private readonly polygonOf = new GrownWords();
  private polygons = 0;
  /** Corners of the face at hand: place, coordinate and normal, then number of the vertex. */
  private readonly places = new GrownWords();
  private readonly rest = new GrownWords();
  private hasCoordinates = true;
  private hasNormals = true;

  constructor(
    readonly mode: 'triangles' | 'lines' | 'points',
    private readonly lists: ObjLists,
  ) {}

  /** Begins a face, line or list of points. */
  begin(): void {
    this.places.length = this.rest.length = 0;
  }

  /** @param coordinate and @param normal `NONE` where it has none */
  corner(place: number, coordinate: number, normal: number): void {
    this.places.push(place);
    this.rest.push(coordinate);
    this.rest.push(normal);
  }

  /** @param smoothing group of the face; 0: it is flat; `NONE`: nothing was said */
  end(smoothing: number): void {
    const { indices, lists, mode, places } = this;
    const corners = places.length;
    if (mode === 'triangles') {
      if (corners < 3) return;
      this.polygons++;
      cutPolygon(corners, lists.positions, places, 0, (a, b, c) => {
        indices.push(this.vertex(a));
        indices.push(this.vertex(b));
        indices.push(this.vertex(c));
        this.groups.push(smoothing);
        this.polygonOf.push(this.polygons);
      });
      return;
    }
    for (let k = 0; k < corners; k++) {
      if (mode === 'lines' && k > 1) indices.push(this.vertex(k - 1));
      indices.push(this.vertex(k));
    }
  }

  get isEmpty(): boolean {
    return this.indices.length === 0;
  }

  /** The vertex of a corner: alike are those of one place, coordinate and normal. */
  private vertex(corner: number): number {
    const coordinate = this.rest.at(corner * 2);
    const normal = this.rest.at(corner * 2 + 1);
    if (coordinate === NONE) this.hasCoordinates = false;
    if (normal === NONE) this.hasNormals = false;
    return this.vertices.numberOf(this.places.at(corner), coordinate, normal);
  }

  geometry(name: string | undefined): Geometry {
    const { lists, mode, vertices } = this;
    const { count } = vertices;
    const hasNormals = this.hasNormals && mode === 'triangles';
    const hasColors = lists.colors.length === lists.positions.length && lists.colors.length > 0;
    const position = new Float32Array(count * 3);
    const texcoord0 = this.hasCoordinates ? new Float32Array(count * 2) : undefined;
    const normal = hasNormals ? new Float32Array(count * 3) : undefined;
    const color0 = hasColors ? new Float32Array(count * 4) : undefined;
    for (let v = 0; v < count; v++) {
      const [place, coordinate, n] = [vertices.part(v, 0), vertices.part(v, 1), vertices.part(v, 2)];
      for (let k = 0; k < 3; k++) {
        position[v * 3 + k] = lists.positions.at(place * 3 + k);
        if (normal) normal[v * 3 + k] = lists.normals.at(n * 3 + k);
        if (color0) color0[v * 4 + k] = lists.colors.at(place * 3 + k);
      }
      if (color0) color0[v * 4 + 3] = 1;
      if (texcoord0) {
        texcoord0[v * 2] = lists.coordinates.at(coordinate * 2);
        // The file counts from below, textures from above.
        texcoord0[v * 2 + 1] = 1 - lists.coordinates.at(coordinate * 2 + 1);
      }
    }
    if (normal) normalize(normal);
    const geometry = geometryFrom(
      {
        position,
        ...(normal ? { normal } : {}),
        ...(texcoord0 ? { texcoord0 } : {}),
        ...(color0 ? { color0 } : {}),
      },
      this.indices.done(),
      { mode, ...(name === undefined ? {} : { name }) },
    );
    return mode !== 'triangles' || hasNormals ? geometry : this.withNormals(geometry);
  }

  /** Faces share normals by their smoothing groups, or where the edge between them is not sharp. */
  private withNormals(geometry: Geometry): Geometry {
    const { groups, lists, polygonOf, vertices } = this;
    const placeOf = new Uint32Array(vertices.count);
    const numbers = new TripleNumbers();
    for (let v = 0; v < vertices.count; v++) placeOf[v] = numbers.numberOf(vertices.part(v, 0), 0, 0);
    const least = Math.cos(CREASE);
    // Flat faces share nothing but within the polygon that they were cut of.
    const alike = lists.hasSmoothing
      ? (face: number, other: number) =>
          polygonOf.at(face) === polygonOf.at(other) ||
          (groups.at(face) !== 0 && groups.at(face) === groups.at(other))
      : (_face: number, _other: number, cosine: number) => cosine >= least;
    return withSharedNormals(geometry, { placeOf, alike });
  }
}

function normalize(normals: Float32Array): void {
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!) || 1; // three each
    for (let k = 0; k < 3; k++) normals[i + k]! /= length;
  }
}
