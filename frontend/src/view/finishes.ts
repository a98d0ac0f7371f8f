/** How surfaces take light, so that metal, timber, glass, stone and cloth are told apart at a look. */
import { Color, MeshLambertMaterial, type MeshLambertMaterialParameters, Vector3 } from "three";

/** The words of the server for how surfaces take light, as numbers for the shader. */
export const FINISHES = ["matt", "metal", "timber", "glass", "stone", "cloth"] as const;
export type Finish = (typeof FINISHES)[number];

/** The number of a finish; what is not known is matt. */
export const finishNumber = (word: string | undefined): number =>
  Math.max(FINISHES.indexOf(word as Finish), 0);

/** How much finishes show: nothing of them while colours stand for figures, which have to be told by. */
const SHARE = { value: 1 };
/** What is reflected from above and from the horizon. */
const SKY = { value: new Color("#f4f7f8") };
const LAND = { value: new Color("#aab2b0") };

export function showFinishes(shown: boolean) {
  SHARE.value = shown ? 1 : 0;
}

/** Whether finishes are shown. */
export const finishesShown = () => SHARE.value > 0;

const NOISE = `
float hashed(vec3 p) {
  p = fract(p * 0.3183099 + 0.1);
  p *= 17.0;
  return fract(p.x * p.y * p.z * (p.x + p.y + p.z));
}
float noise(vec3 x) {
  vec3 i = floor(x);
  vec3 f = fract(x);
  f = f * f * (3.0 - 2.0 * f);
  return mix(
    mix(mix(hashed(i), hashed(i + vec3(1, 0, 0)), f.x), mix(hashed(i + vec3(0, 1, 0)), hashed(i + vec3(1, 1, 0)), f.x), f.y),
    mix(mix(hashed(i + vec3(0, 0, 1)), hashed(i + vec3(1, 0, 1)), f.x), mix(hashed(i + vec3(0, 1, 1)), hashed(i + vec3(1, 1, 1)), f.x), f.y),
    f.z);
}`;

/** What each finish does to a colour before light falls on it. */
const BEFORE = `
#if FINISH == 2
  // Grain runs along what is made of it; seen from afar it would flicker, and is left out.
  vec3 grained = stuffAt * vec3(2.5, 90.0, 90.0);
  float fine = 1.0 - smoothstep(0.2, 0.9, max(fwidth(grained.y), fwidth(grained.z)));
  float grain = mix(0.5, noise(grained), fine) * 0.65 + noise(stuffAt * vec3(0.8, 7.0, 7.0)) * 0.35;
  diffuseColor.rgb *= 1.0 + finishShare * 0.34 * (grain - 0.5);
#elif FINISH == 4
  float far = 1.0 - smoothstep(0.3, 1.0, fwidth(stuffAt.x * 30.0) + fwidth(stuffAt.z * 30.0));
  float grit = mix(0.5, noise(stuffAt * 30.0), far) * 0.4 + noise(stuffAt * 1.7) * 0.6;
  diffuseColor.rgb *= 1.0 + finishShare * 0.16 * (grit - 0.5);
#endif`;

/** What each finish adds to the light that comes from it. */
const AFTER = `
#if FINISH == 1 || FINISH == 3 || FINISH == 5
  float facing = abs(dot(normal, geometryViewDir));
  // How far up lies what is reflected.
  float upward = dot(reflect(-geometryViewDir, normal), worldUp);
#endif
#if FINISH == 1
  vec3 mirrored = mix(skyLand, skyLight, smoothstep(-0.35, 0.75, upward));
  float gloss = 0.16 + 0.5 * pow(1.0 - facing, 4.0) + 0.22 * smoothstep(0.82, 0.98, upward);
  outgoingLight = mix(outgoingLight, mirrored * (0.35 + 0.65 * diffuseColor.rgb / max(max(diffuseColor.r, diffuseColor.g), max(diffuseColor.b, 0.05))), finishShare * gloss);
#elif FINISH == 3
  float rim = pow(1.0 - facing, 3.0);
  vec3 above = mix(skyLand, skyLight, smoothstep(-0.45, 0.1, upward));
  outgoingLight = mix(outgoingLight, above, finishShare * (0.25 + 0.6 * rim));
  diffuseColor.a = mix(diffuseColor.a, mix(0.34, 0.86, rim), finishShare * step(diffuseColor.a, 0.99));
#elif FINISH == 5
  // Light comes through from behind, so that no side is dark.
  outgoingLight = mix(outgoingLight, diffuseColor.rgb * 0.92, finishShare * 0.45);
#endif`;

/** The vertex shader's place in what is drawn, in metres, with what it is made of running along x. */
const PLACE = "stuffAt = (modelMatrix * vec4(transformed, 1.0)).xyz;";
const PLACE_OF_PIECE = `stuffAt = vec3(transformed.x * length(instanceMatrix[0].xyz), transformed.yz)
  + fract(instanceMatrix[3].xyz * 7.31) * 9.0;`;

const UP = new Vector3(0, 0, 1);

/** A material whose surface takes light as its `finish` says. Pieces of members have their places along their axes. */
export function finished(
  finish: string | undefined,
  parameters: MeshLambertMaterialParameters = {},
  pieces = false,
): MeshLambertMaterial {
  const number = finishNumber(finish);
  const material = new MeshLambertMaterial(parameters);
  material.name = [parameters.name, number && FINISHES[number]].filter(Boolean).join(" ");
  if (!number) return material;
  material.defines = { ...material.defines, FINISH: number };
  material.customProgramCacheKey = () => `${number} ${pieces}`;
  const up = { value: new Vector3() };
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, { finishShare: SHARE, skyLight: SKY, skyLand: LAND, worldUp: up });
    shader.vertexShader = shader.vertexShader
      .replace("void main() {", "varying vec3 stuffAt;\nvoid main() {")
      .replace("#include <begin_vertex>", `#include <begin_vertex>\n${pieces ? PLACE_OF_PIECE : PLACE}`);
    shader.fragmentShader = shader.fragmentShader
      .replace(
        "void main() {",
        `varying vec3 stuffAt;\nuniform float finishShare;\nuniform vec3 skyLight, skyLand, worldUp;\n${NOISE}\nvoid main() {`,
      )
      .replace("#include <color_fragment>", `#include <color_fragment>\n${BEFORE}`)
      .replace("#include <opaque_fragment>", `${AFTER}\n#include <opaque_fragment>`);
  };
  material.onBeforeRender = (_renderer, _scene, camera) => {
    up.value.copy(UP).transformDirection(camera.matrixWorldInverse);
  };
  return material;
}
