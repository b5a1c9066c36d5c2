#version 330 core
#include light.glsl
#include hatch.glsl
#include section.glsl
#if LOOK_MESH
in vec3 g_position;
in vec3 g_normal;
in vec3 g_edge;
in float g_guard;
#define guard g_guard
#define position g_position
#define normal g_normal
#else
in vec3 position;
in vec3 normal;
in float guard;
#endif
#if CURVED
in float curve;
uniform float cavity;
uniform float grain;
#endif
out vec4 colour;

#include facet.glsl

void main() {
    if (cut_away(position)) discard;
    if (sectioned == 1 && !gl_FrontFacing) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(faceted(normal));
    if (!gl_FrontFacing) n = -n;
    vec3 clay = gl_FrontFacing ? vec3(0.35, 0.335, 0.31) : vec3(0.15, 0.19, 0.26);
#if CURVED
    // hollows darker, edges lighter: curvature against the size of a triangle, so that small relief shows at any scale
    float bend = curve * grain * 3.0;
    clay *= 1.0 + cavity * (bend > 0.0 ? 0.55 * bend / (1.0 + bend) : 0.85 * bend / (1.0 - bend));
#endif
    vec3 shade = lit(position, n, n, clay, 0.75);
#if LOOK_MESH
    vec3 width = fwidth(g_edge);
    vec3 near = smoothstep(vec3(0.0), width * 1.2, g_edge);
    float line = 1.0 - min(min(near.x, near.y), near.z);
    // where triangles are smaller than a few pixels lines would only darken everything
    float room = 1.0 - smoothstep(0.12, 0.5, max(max(width.x, width.y), width.z));
    shade = mix(shade, vec3(0.012, 0.05, 0.06), line * (0.12 + 0.68 * room));
#endif
    colour = vec4(hatched(shade, guard), 1.0);
}
