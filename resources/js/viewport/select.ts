import * as THREE from 'three';
import type { Marks } from './marks';
import type { SceneItem } from './sceneItem';

/** How far away the foremost thing is at each CSS pixel of the view, in millimetres along the line of sight; Infinity where nothing is. */
export type DepthMap = Float32Array;

const depthMaterial = new THREE.ShaderMaterial({
  side: THREE.DoubleSide,
  clipping: true,
  uniforms: { range: { value: new THREE.Vector2() }, spread: { value: 0 }, rows: { value: 0 } },
  // Points are drawn as wide as they lie apart: a front of points must hide what shines through between them.
  vertexShader:
    'varying float along; uniform float spread; uniform float rows;\n#include <clipping_planes_pars_vertex>\nvoid main() { vec4 mvPosition = modelViewMatrix * vec4(position, 1.0); along = -mvPosition.z; float perMm = 0.5 * rows * projectionMatrix[1][1] / (projectionMatrix[3][3] == 0.0 ? along : 1.0); gl_PointSize = clamp(spread * perMm, 4.0, 64.0); gl_Position = projectionMatrix * mvPosition;\n#include <clipping_planes_vertex>\n}',
  fragmentShader:
    'varying float along; uniform vec2 range;\n#include <clipping_planes_pars_fragment>\nvoid main() {\n#include <clipping_planes_fragment>\n float z = clamp((along - range.x) / (range.y - range.x), 0.0, 0.999999); vec3 c = fract(z * vec3(1.0, 255.0, 65025.0)); gl_FragColor = vec4(c.x - c.y / 255.0, c.y - c.z / 255.0, c.z, 0.0); }',
});

export function renderDepth(renderer: THREE.WebGLRenderer, scene: THREE.Scene, lens: THREE.Camera & { near: number; far: number }, width: number, height: number, clip: THREE.Plane[], spread: number): DepthMap {
  const target = new THREE.WebGLRenderTarget(width, height, { minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter });
  const clear = renderer.getClearColor(new THREE.Color()).clone();
  const alpha = renderer.getClearAlpha();
  depthMaterial.clippingPlanes = clip;
  depthMaterial.needsUpdate = true;
  depthMaterial.uniforms.spread!.value = spread;
  depthMaterial.uniforms.rows!.value = height;
  depthMaterial.uniforms.range!.value.set(lens.near, lens.far);
  scene.overrideMaterial = depthMaterial;
  renderer.setRenderTarget(target);
  renderer.setClearColor(0xffffff, 1);
  renderer.clear();
  renderer.render(scene, lens);
  const bytes = new Uint8Array(4 * width * height);
  renderer.readRenderTargetPixels(target, 0, 0, width, height, bytes);
  renderer.setRenderTarget(null);
  renderer.setClearColor(clear, alpha);
  scene.overrideMaterial = null;
  target.dispose();
  const depth = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // The rows of a render target begin at the bottom; what was drawn left alpha at 0.
      const o = 4 * ((height - 1 - y) * width + x);
      depth[y * width + x] = bytes[o + 3]! > 0 ? Infinity : lens.near + (lens.far - lens.near) * (bytes[o]! / 255 + bytes[o + 1]! / 65025 + bytes[o + 2]! / 16581375);
    }
  return depth;
}

interface Looking {
  lens: THREE.Camera;
  width: number;
  height: number;
  depth: DepthMap;
  /** what lies no farther behind the foremost thing still counts as in front */
  slack: number;
  /** what lies outside is hidden: from the scene to a box about the origin, and half its size */
  within: { into: THREE.Matrix4; half: readonly [number, number, number] } | null;
}

/** Points, and faces by their middles, on the marked pixels: those in front, or through all; and which of the latter are not in front. */
export function markInside(items: Iterable<SceneItem>, pixels: Uint8Array, through: boolean, { lens, width, height, depth, slack, within }: Looking): { found: Marks; behind: Marks } {
  const found = new Map<string, Uint8Array>();
  const behind = new Map<string, Uint8Array>();
  for (const item of items) {
    const { positions: p, faces } = item.geometry;
    const many = (faces ? faces.length : p.length) / 3;
    const marks = new Uint8Array(many);
    const far = new Uint8Array(many);
    const view = lens.matrixWorldInverse.clone().multiply(item.object.matrix).elements;
    const clip = lens.projectionMatrix.clone().multiply(lens.matrixWorldInverse).multiply(item.object.matrix).elements;
    const [c0, c1, c3, c4, c5, c7, c8, c9, c11, c12, c13, c15] = [clip[0], clip[1], clip[3], clip[4], clip[5], clip[7], clip[8], clip[9], clip[11], clip[12], clip[13], clip[15]] as [number, number, number, number, number, number, number, number, number, number, number, number];
    const [v2, v6, v10, v14] = [view[2]!, view[6]!, view[10]!, view[14]!];
    const own = within ? within.into.clone().multiply(item.object.matrix).elements : null;
    const mask = item.mask;
    for (let i = 0; i < many; i++) {
      if (mask && !mask[i]) continue;
      let x: number;
      let y: number;
      let z: number;
      if (faces) {
        const a = 3 * faces[3 * i]!;
        const b = 3 * faces[3 * i + 1]!;
        const c = 3 * faces[3 * i + 2]!;
        x = (p[a]! + p[b]! + p[c]!) / 3;
        y = (p[a + 1]! + p[b + 1]! + p[c + 1]!) / 3;
        z = (p[a + 2]! + p[b + 2]! + p[c + 2]!) / 3;
      } else {
        x = p[3 * i]!;
        y = p[3 * i + 1]!;
        z = p[3 * i + 2]!;
      }
      if (own && within && ([0, 1, 2] as const).some((k) => Math.abs(own[k]! * x + own[k + 4]! * y + own[k + 8]! * z + own[k + 12]!) > within.half[k])) continue;
      const w = c3 * x + c7 * y + c11 * z + c15;
      if (w <= 0) continue;
      const px = Math.floor((0.5 + (0.5 * (c0 * x + c4 * y + c8 * z + c12)) / w) * width);
      const py = Math.floor((0.5 - (0.5 * (c1 * x + c5 * y + c9 * z + c13)) / w) * height);
      if (px < 0 || py < 0 || px >= width || py >= height || !pixels[py * width + px]) continue;
      const isFront = -(v2 * x + v6 * y + v10 * z + v14) <= depth[py * width + px]! + slack;
      if (isFront || through) marks[i] = 1;
      if (!isFront) far[i] = 1;
    }
    found.set(item.id, marks);
    behind.set(item.id, far);
  }
  return { found, behind };
}
