#version 330 core
// How texture coordinates lie: counted squares, stretch, and texels a metre.
#include hatch.glsl
#include section.glsl
#if BY_UV
in vec3 g_position;
in vec3 g_normal;
in float g_guard;
in vec2 g_uv;
#define position g_position
#define normal g_normal
#define guard g_guard
#else
in vec3 position;
in vec3 normal;
in float guard;
#endif
uniform vec3 eye;
uniform vec3 ramp[5];
uniform vec3 unseen;  // what is mirrored
uniform int measure;
uniform float value;
uniform float metres_per_uv;
out vec4 colour;

vec3 on_ramp(float share) {
    float at = clamp(share, 0.0, 1.0) * 4.0;
    int low = min(int(at), 3);
    return mix(ramp[low], ramp[low + 1], at - float(low));
}

void main() {
    if (cut_away(position)) discard;
    if (sectioned == 1 && !gl_FrontFacing) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(normal);
    vec3 shade = vec3(0.62);
#if BY_UV
    vec3 px = dFdx(position), py = dFdy(position);
    vec2 ux = dFdx(g_uv), uy = dFdy(g_uv);
    float turn = ux.x * uy.y - ux.y * uy.x;
    float safe = abs(turn) > 1e-20 ? turn : 1e-20;
    // metres for a unit to the right, and for one down
    vec3 by_u = (px * uy.y - py * ux.y) / safe;
    vec3 by_v = (py * ux.x - px * uy.x) / safe;
    float metres = sqrt(0.5 * (dot(by_u, by_u) + dot(by_v, by_v)));
    if (measure == 18) {
        // squares, so many to a unit; rows by lightness, columns by hue, so that each can be told
        vec2 cell = floor(g_uv * value);
        vec2 within = fract(g_uv * value);
        float row = mod(cell.y, value) / value, column = mod(cell.x, value) / value;
        shade = on_ramp(column) * mix(1.0, 0.45, row);
        if (mod(cell.x + cell.y, 2.0) > 0.5) shade = mix(shade, vec3(0.9, 0.88, 0.83), 0.55);
        // a mark in the upper left corner of each square says which way up it lies
        if (within.x < 0.3 && within.y < 0.3 && within.x + within.y < 0.3) shade *= 0.25;
    } else if (measure == 19) {
        shade = on_ramp(0.5 + 0.5 * log2(max(metres / metres_per_uv, 1e-6)));
    } else if (measure == 20) {
        shade = on_ramp(0.5 + 0.25 * log2(max(value / metres, 1e-6) / 256.0));
    }
    bool mirrored = dot(cross(by_u, by_v), n) > 0.0;  // v runs down
    if (measure != 18 && mirrored) shade = unseen;
#endif
    float facing = abs(dot(n, normalize(eye - position - place)));
    shade *= 0.62 + 0.38 * facing;
    if (!gl_FrontFacing) shade *= vec3(0.45, 0.5, 0.6);
    colour = vec4(hatched(shade, guard), 1.0);
}
