#version 330 core
uniform vec3 toward_light;
uniform float strength;
in vec3 position;
in vec3 normal;
out vec4 colour;

void main() {
    vec3 n = normalize(normal);
    float light = 0.45 + 0.55 * max(dot(n, toward_light), 0.0) + 0.15 * n.y;
    // a warm coat over dark trousers, so that the figure reads against rock and turf alike
    vec3 cloth = normal == vec3(0.0) ? vec3(0.5) : vec3(0.75, 0.24, 0.10);
    colour = vec4(cloth * light * strength, 1.0);
}
