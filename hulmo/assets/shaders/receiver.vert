#version 330 core
// Draws a mesh of this file. Attributes are named as in the file; those it does not have may be left out.
#include constants.glsl
uniform mat4 view_projection;  // from metres about the node's translation to the screen
in vec3 POSITION;
in vec3 NORMAL;
in vec2 TEXCOORD_0;
in vec4 _GROUND_0;
in vec4 _GROUND_1;
in vec4 _GROUND_2;
in vec4 _GROUND_3;
in vec4 _TINT;
out vec3 position;
out vec3 normal;
out vec2 uv;
out vec4 weights_0;
out vec4 weights_1;
out vec4 weights_2;
out vec4 weights_3;
out vec4 tint;

void main() {
    position = POSITION * METRES;
    normal = NORMAL;
    uv = TEXCOORD_0;
    weights_0 = _GROUND_0;
    weights_1 = GROUNDS > 4 ? _GROUND_1 : vec4(0.0);
    weights_2 = GROUNDS > 8 ? _GROUND_2 : vec4(0.0);
    weights_3 = GROUNDS > 12 ? _GROUND_3 : vec4(0.0);
    tint = _TINT;
    gl_Position = view_projection * vec4(position, 1.0);
}
