#version 330 core
#include place.glsl
uniform mat4 view_projection;
uniform float edge_pixels;
in vec3 in_position;
in float in_chosen;
out vec3 position;
out float chosen;

void main() {
    position = in_position;
    chosen = in_chosen;
    gl_Position = view_projection * vec4(in_position + place, 1.0);
    float apart = edge_pixels / max(gl_Position.w, 1e-6);
    gl_Position.z -= 4e-4 * gl_Position.w;
    bool there = chosen < 0.25 || chosen > 0.75;
    bool drawn = there && (chosen > 0.5 || apart > 5.0);
    if (!drawn) gl_Position = vec4(2.0, 2.0, 2.0, 1.0);
    gl_PointSize = chosen > 0.5 ? clamp(apart * 0.5, 4.0, 9.0) : clamp(apart * 0.2, 2.0, 4.0);
}
