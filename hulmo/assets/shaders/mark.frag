#version 330 core
#include section.glsl
uniform vec3 colour;
in vec3 position;
out vec4 result;

void main() {
    if (cut_away(position)) {
        discard;
    }
    result = vec4(colour, 1.0);
}
