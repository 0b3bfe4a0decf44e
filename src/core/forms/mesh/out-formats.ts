/** What meshes go out as; apart from the rest, for pages that only offer them. */
export const MESH_OUT = ['glb', 'obj', 'stl'] as const;
export type MeshOut = (typeof MESH_OUT)[number];
