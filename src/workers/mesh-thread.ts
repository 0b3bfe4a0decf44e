/** A server thread for large meshes. */
export { drawOne, inspectParts, meshFile } from '../core/forms/mesh';
