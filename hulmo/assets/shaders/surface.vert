#version 330 core
uniform mat4 view_projection;
in vec3 in_position;
in vec3 in_normal;
in float in_guard;
#if CURVED
in float in_curve;
out float curve;
#endif
#if TEXTURED
in vec4 in_weight_a;
in vec4 in_weight_b;
out vec4 weight_a;
out vec4 weight_b;
#endif
out vec3 position;
out vec3 normal;
out float guard;

void main() {
    guard = in_guard;
#if CURVED
    curve = in_curve;
#endif
    position = in_position;
    normal = in_normal;
#if TEXTURED
    weight_a = in_weight_a;
    weight_b = in_weight_b;
#endif
    gl_Position = view_projection * vec4(in_position, 1.0);
}
