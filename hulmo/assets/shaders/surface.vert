#version 330 core
#include place.glsl
uniform mat4 view_projection;
in vec3 in_position;
in vec3 in_normal;
in float in_guard;
#if CURVED
in float in_curve;
out float curve;
#endif
#if WEIGHTED
in uvec4 in_weight_a;
out vec4 weight_a;
#if GROUPS > 1
in uvec4 in_weight_b;
out vec4 weight_b;
#endif
#if GROUPS > 2
in uvec4 in_weight_c;
in uvec4 in_weight_d;
out vec4 weight_c;
out vec4 weight_d;
#endif
#endif
#if TINTED
in vec4 in_tint;
out vec4 tint_here;
#endif
#if HANDED
in float in_hand;
out float hand;
#endif
out vec3 position;
out vec3 normal;
out float guard;
invariant gl_Position;

void main() {
    guard = in_guard;
#if CURVED
    curve = in_curve;
#endif
    position = in_position;
    normal = in_normal;
#if WEIGHTED
    weight_a = vec4(in_weight_a) / 65535.0;
#if GROUPS > 1
    weight_b = vec4(in_weight_b) / 65535.0;
#endif
#if GROUPS > 2
    weight_c = vec4(in_weight_c) / 65535.0;
    weight_d = vec4(in_weight_d) / 65535.0;
#endif
#endif
#if TINTED
    tint_here = in_tint;
#endif
#if HANDED
    hand = in_hand;
#endif
    gl_Position = view_projection * vec4(in_position + place, 1.0);
}
