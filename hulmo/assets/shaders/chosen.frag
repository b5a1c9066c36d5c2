#version 330 core
#include section.glsl
uniform vec4 colour;
in vec3 position;
out vec4 result;

void main() {
    if (cut_away(position)) {
        discard;
    }
    result = colour;
}
