#version 330 core
#include light.glsl
#include section.glsl
uniform int mode;  // 0 lit, 1 colours alone, 2 shape alone, 3 normals and numbers, 4 nothing
in vec3 position;
in vec3 normal;
in vec3 paint;
flat in float number;
out vec4 colour;

void main() {
    if (cut_away(position)) discard;
    vec3 n = normalize(normal);
    if (dot(n, eye - position - place) < 0.0) n = -n;
    if (mode >= 3) {
        colour = mode == 3 ? vec4(n * 0.5 + 0.5, 1.0 + number) : vec4(0.0);
        return;
    }
    if (mode == 1) {
        colour = vec4(paint, 1.0);
        return;
    }
    vec3 albedo = mode == 0 ? paint : vec3(0.28, 0.27, 0.26);  // clay, a little darker than the ground's
    colour = vec4(lit(position, n, n, albedo, 0.9), 1.0);
}
