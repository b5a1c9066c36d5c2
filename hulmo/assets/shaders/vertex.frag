#version 330 core
#include section.glsl
in vec3 position;
in float chosen;
out vec4 result;

void main() {
    if (cut_away(position)) discard;
    vec2 p = gl_PointCoord * 2.0 - 1.0;
    if (dot(p, p) > 1.0) discard;
    result = chosen > 0.5 ? vec4(0.02, 1.6, 1.7, 1.0) : vec4(0.02, 0.03, 0.03, 1.0);
    if (chosen > 0.5 && dot(p, p) > 0.55) result = vec4(0.0, 0.05, 0.06, 1.0);
}
