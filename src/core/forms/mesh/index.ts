export { drawMesh } from './draw';
export { fitMeshFile } from './fit-file';
export { fitMesh, sayMeshExpectation, type MeshFitOptions } from './fit-mesh';
export { fitClip } from './fit-clip';
export { isNormalMap, writeGlb, type GltfOptions } from './gltf';
export { findShells, inspectMesh, weld, type Inspection } from './inspect';
export { drawOne, inspectParts, meshFile, type DrawOrder, type MeshFile, type MeshFileOrder } from './mesh-file';
export {
  boundsOf,
  trianglesOf,
  verticesOf,
  type Mesh,
  type MeshClip,
  type MeshJoint,
  type MeshLevel,
  type MeshPart,
} from './mesh';
export { writeObj } from './obj';
export { readMeshFile, type MeshOfFile } from './mesh-of-file';
export { meshName, openAsMesh } from './open-as-mesh';
export type { OpenMesh } from './mesh-model';
export { readOpenMesh } from './open-mesh';
export { readRecipeClip, writeRecipeClip, type RecipeClip } from './recipe-clip';
export { readRecipeMesh, writeRecipeMesh, type RecipeMesh } from './recipe-mesh';
export { uniteShells } from './solid';
export { clipInSpaceOf, inMetres } from './space';
export { stlOf, writeStl } from './stl';
