#version 330 core
#include place.glsl
uniform mat4 view_projection;
in vec3 in_position;
in vec3 in_normal;
in vec3 in_colour;
in vec4 in_east;
in vec4 in_up;
in vec4 in_south;
in float in_number;
out vec3 position;
out vec3 normal;
out vec3 paint;
flat out float number;

void main() {
    vec4 p = vec4(in_position, 1.0);
    position = vec3(dot(in_east, p), dot(in_up, p), dot(in_south, p));
    normal = vec3(dot(in_east.xyz, in_normal), dot(in_up.xyz, in_normal), dot(in_south.xyz, in_normal));
    paint = in_colour;
    number = in_number;
    gl_Position = view_projection * vec4(position + place, 1.0);
}
