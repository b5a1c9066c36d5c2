#version 330 core
uniform vec3 toward_light;
uniform vec3 paint;
uniform float strength;
uniform int mode;  // 0 painted, 1 normals, 2 nothing
in vec3 normal;
out vec4 colour;

void main() {
    vec3 n = normalize(normal);
    if (mode != 0) {
        colour = mode == 1 ? vec4(n * 0.5 + 0.5, 1.0) : vec4(0.0);
        return;
    }
    float light = 0.45 + 0.55 * max(dot(n, toward_light), 0.0) + 0.15 * n.y;
    colour = vec4(paint * light * strength, 1.0);
}
