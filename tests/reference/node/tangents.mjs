// Tangents by the reference implementation: positions, normals and texture coordinates as JSON on standard input, one to a corner.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
const { generateTangents } = createRequire(import.meta.url)('mikktspace');
const { position, normal, uv } = JSON.parse(readFileSync(0, 'utf8'));
const made = generateTangents(Float32Array.from(position), Float32Array.from(normal), Float32Array.from(uv));
console.log(JSON.stringify(Array.from(made)));
