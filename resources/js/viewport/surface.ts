import * as THREE from 'three';
import { FILLED, MEASURED, RESHAPED } from './palette';

/** Stripes across the screen with nothing between them: told apart without colour, and what is below still shows. */
export function striped<T extends THREE.Material>(material: T): T {
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace('#include <premultiplied_alpha_fragment>', '#include <premultiplied_alpha_fragment>\n if (mod(gl_FragCoord.x - gl_FragCoord.y, 9.0) > 2.5) discard;');
  };
  return material;
}

/**
 * Lights a face by its own normal where the one between its corners' is far from it: at a sharp edge the corners' normals lean half-way over to the
 * other side, by each triangle differently, and a clean edge would look sawn.
 */
export function withEdges(fragmentShader: string): string {
  return fragmentShader.replace(
    '#include <normal_fragment_maps>',
    `#include <normal_fragment_maps>
 vec3 ownNormal = normalize(cross(dFdx(vViewPosition), dFdy(vViewPosition)));
 float along = dot(ownNormal, normal);
 normal = normalize(mix(along < 0.0 ? -ownNormal : ownNormal, normal, smoothstep(0.88, 0.96, abs(along))));`,
  );
}

/** How made-up surface is drawn, by its mark: filled, strip, reshaped, closed in the volume, smoothed, made. Stripes and dots across the screen tell them apart without colour. */
export const MADE_UP = [
  { colour: FILLED, where: 'mod(gl_FragCoord.x + gl_FragCoord.y, 10.0) < 4.0' },
  { colour: FILLED, where: 'mod(gl_FragCoord.x + gl_FragCoord.y, 10.0) < 3.0 || mod(gl_FragCoord.x - gl_FragCoord.y + 8000.0, 10.0) < 3.0' },
  { colour: RESHAPED, where: 'mod(gl_FragCoord.x - gl_FragCoord.y + 8000.0, 10.0) < 4.0' },
  { colour: FILLED, where: 'mod(gl_FragCoord.y, 9.0) < 3.5' },
  { colour: MEASURED, where: 'mod(gl_FragCoord.x, 9.0) < 2.5' },
  { colour: RESHAPED, where: 'mod(gl_FragCoord.x, 8.0) < 3.0 && mod(gl_FragCoord.y, 8.0) < 3.0' },
] as const;

/** Surface with sharp edges, striped where it is made up, and left out where what backs it weighs less than a limit that all materials of an item share. */
export function surface(colour: number, roughness: number, least: { value: number }, where?: string): THREE.MeshStandardMaterial {
  const material = new THREE.MeshStandardMaterial({ color: colour, roughness, side: THREE.DoubleSide });
  material.onBeforeCompile = (shader) => {
    shader.uniforms.leastBacking = least;
    shader.vertexShader = shader.vertexShader.replace('#include <common>', '#include <common>\n attribute float backing;\n varying float vBacking;').replace('#include <begin_vertex>', '#include <begin_vertex>\n vBacking = backing;');
    shader.fragmentShader = withEdges(shader.fragmentShader).replace('#include <common>', '#include <common>\n varying float vBacking;\n uniform float leastBacking;').replace('#include <clipping_planes_fragment>', '#include <clipping_planes_fragment>\n if (vBacking < leastBacking) discard;');
    if (where) shader.fragmentShader = shader.fragmentShader.replace('#include <dithering_fragment>', `#include <dithering_fragment>\n if (${where}) gl_FragColor.rgb *= 0.62;`);
  };
  material.customProgramCacheKey = () => where ?? 'measured';
  return material;
}
