// What `gather.frag` has kept of the surface at a pixel, in place of what comes from the vertices.
uniform sampler2D at_position;
uniform sampler2D at_normal;
uniform sampler2D at_dx;
uniform sampler2D at_dy;
uniform sampler2D at_weight_a;
uniform sampler2D at_weight_b;
uniform sampler2D at_weight_c;
uniform sampler2D at_weight_d;
uniform sampler2D at_tint;
uniform float number;  // of the body, from 1
vec3 position;
vec3 normal;
float guard;
vec3 position_dx;
vec3 position_dy;
vec4 weight_a;
#if GROUPS > 1
vec4 weight_b;
#endif
#if GROUPS > 2
vec4 weight_c;
vec4 weight_d;
#endif
#if TINTED
vec4 tint_here;
#endif
bool front;
#define FRONT front

// False where another body, or nothing, is seen.
bool gathered() {
    ivec2 texel = ivec2(gl_FragCoord.xy);
    vec4 a = texelFetch(at_normal, texel, 0);
    if (abs(a.w) != number) return false;
    vec4 b = texelFetch(at_position, texel, 0);
    normal = a.xyz;
    front = a.w > 0.0;
    position = b.xyz;
    guard = b.w;
    position_dx = texelFetch(at_dx, texel, 0).xyz;
    position_dy = texelFetch(at_dy, texel, 0).xyz;
    weight_a = texelFetch(at_weight_a, texel, 0);
#if GROUPS > 1
    weight_b = texelFetch(at_weight_b, texel, 0);
#endif
#if GROUPS > 2
    weight_c = texelFetch(at_weight_c, texel, 0);
    weight_d = texelFetch(at_weight_d, texel, 0);
#endif
#if TINTED
    tint_here = texelFetch(at_tint, texel, 0);
#endif
    return true;
}
