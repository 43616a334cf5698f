import { BackSide, MeshBasicMaterial, NotEqualStencilFunc, ReplaceStencilOp } from "three";

export interface FigureColors {
  readonly wood: string;
  readonly left: string;
  readonly right: string;
  readonly ink: string;
  readonly picked: string;
}

/** As wide on the screen from near as from far, but never wider than on a body seen whole. */
const LINE = "min( 0.0045, 0.0011 * -mvPosition.z )";

/** Back faces of instanced volumes pushed outwards along their normals, by more the farther they are: an ink line of one width on the screen around every part. */
export function outlineMaterial(color: string, opacity: number): MeshBasicMaterial {
  const material = new MeshBasicMaterial({ color, side: BackSide, transparent: opacity < 1, opacity });
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader.replace(
      "#include <project_vertex>",
      `
      vec4 mvPosition = vec4( transformed, 1.0 );
      mat4 placed = modelViewMatrix * instanceMatrix;
      mvPosition = placed * mvPosition;
      vec3 outward = normalize( transpose( inverse( mat3( placed ) ) ) * normal );
      mvPosition.xyz += outward * ${LINE};
      gl_Position = projectionMatrix * mvPosition;`,
    );
  };
  return material;
}

/** The same of a skinned mesh, whose normals have gone with their bones already. */
export function extrudedOutline(color: string, opacity: number): MeshBasicMaterial {
  const material = new MeshBasicMaterial({ color, side: BackSide, transparent: opacity < 1, opacity });
  material.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader.replace(
      "#include <project_vertex>",
      `
      vec4 mvPosition = modelViewMatrix * vec4( transformed, 1.0 );
      // Drawn from behind, its normals are turned over already.
      mvPosition.xyz -= normalize( transformedNormal ) * ${LINE};
      gl_Position = projectionMatrix * mvPosition;`,
    );
  };
  return material;
}

/** A flat shadow that darkens every pixel once, however many parts lie over it. */
export function shadowMaterial(stencilRef: number, opacity: number): MeshBasicMaterial {
  return new MeshBasicMaterial({
    color: "#000000",
    transparent: true,
    opacity,
    depthWrite: false,
    stencilWrite: true,
    stencilRef,
    stencilFunc: NotEqualStencilFunc,
    stencilZPass: ReplaceStencilOp,
  });
}
