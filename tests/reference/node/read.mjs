// For each GLB named: what the standard body's validator says, and what an independent reader finds in it. One JSON line a file.
import { createHash } from 'crypto';
import { readFileSync } from 'fs';
import { NodeIO } from '@gltf-transform/core';
import { EXTMeshoptCompression, KHRMeshQuantization } from '@gltf-transform/extensions';
import { MeshoptDecoder } from 'meshoptimizer';
import validator from 'gltf-validator';

await MeshoptDecoder.ready;
const io = new NodeIO().registerExtensions([EXTMeshoptCompression, KHRMeshQuantization]);
io.registerDependencies({ 'meshopt.decoder': MeshoptDecoder });

for (const file of process.argv.slice(2)) {
  const bytes = new Uint8Array(readFileSync(file));
  const report = await validator.validateBytes(bytes, { maxIssues: 0, ignoredIssues: ['UNUSED_OBJECT'] });
  const document = await io.readBinary(bytes);
  const root = document.getRoot();
  const meshes = root.listMeshes().map((mesh) => {
    const primitive = mesh.listPrimitives()[0];
    const attributes = {};
    for (const name of primitive.listSemantics()) {
      const accessor = primitive.getAttribute(name);
      const sum = new Array(accessor.getElementSize()).fill(0);
      const element = [];
      let least = Infinity, most = -Infinity;
      for (let i = 0; i < accessor.getCount(); i++) {
        accessor.getElement(i, element);
        const total = element.reduce((a, b) => a + b, 0);
        least = Math.min(least, total);
        most = Math.max(most, total);
        element.forEach((value, k) => (sum[k] += value));
      }
      attributes[name] = {
        type: accessor.getType(), component: accessor.getComponentType(), normalized: accessor.getNormalized(),
        count: accessor.getCount(), mean: sum.map((value) => value / accessor.getCount()), least, most,
        bytes: createHash('sha256').update(new Uint8Array(accessor.getArray().slice().buffer)).digest('hex'),
      };
    }
    return { name: mesh.getName(), triangles: primitive.getIndices().getCount() / 3, attributes };
  });
  console.log(JSON.stringify({
    errors: report.issues.numErrors, warnings: report.issues.numWarnings, meshes,
    images: root.listTextures().map((t) => [t.getName(), t.getMimeType(), t.getSize()]),
    extras: root.getExtras(),
  }));
}
