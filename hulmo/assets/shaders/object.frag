#version 330 core
uniform vec3 toward_light;
uniform vec3 paint;
uniform float strength;
in vec3 normal;
out vec4 colour;

void main() {
    vec3 n = normalize(normal);
    float light = 0.45 + 0.55 * max(dot(n, toward_light), 0.0) + 0.15 * n.y;
    colour = vec4(paint * light * strength, 1.0);
}
