#version 330 core
// Keeps what is known of the surface at every pixel, for `ground.frag` to shade once for each: drawers that shade small
// triangles in blocks of pixels would otherwise shade most pixels many times over.
#include section.glsl
in vec3 position;
in vec3 normal;
in float guard;
#if TINTED
in vec4 tint_here;
#endif
#include weights.glsl
uniform float number;
layout(location = 0) out vec4 at_position;  // and guard
layout(location = 1) out vec4 at_normal;    // and the number of the body, below 0 on back faces
layout(location = 2) out vec4 at_dx;
layout(location = 3) out vec4 at_dy;
layout(location = 4) out vec4 at_weight_a;
#if GROUPS > 1
layout(location = 5) out vec4 at_weight_b;
#endif
#if GROUPS > 2
layout(location = 6) out vec4 at_weight_c;
layout(location = 7) out vec4 at_weight_d;
#endif
#if TINTED && GROUPS == 1
layout(location = 5) out vec4 at_tint;
#elif TINTED
layout(location = 6) out vec4 at_tint;
#endif

void main() {
    vec3 dx = dFdx(position);
    vec3 dy = dFdy(position);
    if (cut_away(position)) discard;
    at_position = vec4(position, guard);
    at_normal = vec4(faceted(normal), gl_FrontFacing ? number : -number);
    at_dx = vec4(dx, 0.0);
    at_dy = vec4(dy, 0.0);
    float weight[MOST_GROUNDS];
    weights_here(weight);
    at_weight_a = vec4(weight[0], weight[1], weight[2], weight[3]);
#if GROUPS > 1
    at_weight_b = vec4(weight[4], weight[5], weight[6], weight[7]);
#endif
#if GROUPS > 2
    at_weight_c = vec4(weight[8], weight[9], weight[10], weight[11]);
    at_weight_d = vec4(weight[12], weight[13], weight[14], weight[15]);
#endif
#if TINTED
    at_tint = tint_here;
#endif
}
