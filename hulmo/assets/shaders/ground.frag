#version 330 core
#include blend.glsl
#include light.glsl
#include hatch.glsl
#include section.glsl
uniform sampler2DArray colour_height;
uniform sampler2DArray normal_rough;
uniform float tile[MOST_GROUNDS];
uniform vec3 tint[MOST_GROUNDS];
uniform int grounds;
uniform float depth;
in vec3 position;
in vec3 normal;
in float guard;
in vec4 weight_a;
in vec4 weight_b;
out vec4 colour;


// Texture coordinate in metres, seen along one axis (see blend.glsl), of a point or of a screen derivative.
vec2 plane(vec3 p, int axis) {
    return axis == 1 ? p.xz : vec2(axis == 0 ? p.z : p.x, -p.y);
}

void main() {
    if (cut_away(position)) discard;
    if (sectioned == 1 && !gl_FrontFacing) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(normal);
    if (!gl_FrontFacing) n = -n;
    vec3 dx = dFdx(position);
    vec3 dy = dFdy(position);
    vec3 axes = axis_weights(n);
    // Only what counts is looked up: lists instead of branches, so that slow drawers skip the rest.
    int axis_of[3];
    float axis_share[3];
    int axis_count = 0;
#if QUICK
    axis_of[0] = axes.y >= axes.x && axes.y >= axes.z ? 1 : (axes.x >= axes.z ? 0 : 2);
    axis_share[0] = 1.0;
    axis_count = 1;
#else
    axes = max(axes - 0.02, 0.0);
    axes /= axes.x + axes.y + axes.z;
    for (int axis = 0; axis < 3; ++axis) {
        if (axes[axis] > 0.0) {
            axis_of[axis_count] = axis;
            axis_share[axis_count] = axes[axis];
            ++axis_count;
        }
    }
#endif
    float all_weights[MOST_GROUNDS] = float[MOST_GROUNDS](
        weight_a.x, weight_a.y, weight_a.z, weight_a.w, weight_b.x, weight_b.y, weight_b.z, weight_b.w);
    int ground_of[MOST_GROUNDS];
    float weight[MOST_GROUNDS];
    float height[MOST_GROUNDS];
    float share[MOST_GROUNDS];
    vec3 albedo[MOST_GROUNDS];
    for (int i = 0; i < MOST_GROUNDS; ++i) {
        weight[i] = 0.0;
        height[i] = 0.0;
    }
    int count = 0;
    for (int i = 0; i < grounds; ++i) {
        if (all_weights[i] > 0.002) {
            ground_of[count] = i;
            weight[count] = all_weights[i];
            ++count;
        }
    }
    for (int k = 0; k < count; ++k) {
        int ground = ground_of[k];
        float s = 1.0 / tile[ground];
        vec4 texel = vec4(0.0);
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = plane(position, axis) * s + AXIS_SHIFT[axis];
            texel += axis_share[a]
                * textureGrad(colour_height, vec3(uv, ground), plane(dx, axis) * s, plane(dy, axis) * s);
        }
        albedo[k] = texel.rgb * tint[ground];
        height[k] = texel.a;
    }
    ground_shares(weight, height, depth, share);
    vec3 base = vec3(0.0);
    for (int k = 0; k < count; ++k) base += albedo[k] * share[k];
#if LOOK_GROUND
    colour = vec4(base, 1.0);
#else
    float rough = 0.9;
    vec3 bent = n;
#if !QUICK
    rough = 0.0;
    vec3 push = vec3(0.0);
    int seen = 0;
    for (int k = 0; k < count; ++k) {
        if (share[k] > 0.01) {
            ground_of[seen] = ground_of[k];
            share[seen] = share[k];
            ++seen;
        }
    }
    for (int k = 0; k < seen; ++k) {
        int ground = ground_of[k];
        float s = 1.0 / tile[ground];
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = plane(position, axis) * s + AXIS_SHIFT[axis];
            vec3 texel =
                textureGrad(normal_rough, vec3(uv, ground), plane(dx, axis) * s, plane(dy, axis) * s).xyz;
            vec2 slant = (texel.xy * 2.0 - 1.0) * (axis_share[a] * share[k]);
            rough += texel.z * axis_share[a] * share[k];
            push += axis == 0 ? vec3(0.0, slant.y, slant.x)
                  : axis == 1 ? vec3(slant.x, 0.0, -slant.y) : vec3(slant.x, slant.y, 0.0);
        }
    }
    bent = normalize(n + push);
    rough = clamp(rough, 0.05, 1.0);
#endif
    colour = vec4(lit(position, n, bent, base, rough), 1.0);
#endif
    // back faces are plainly different: cooler and darker
    if (!gl_FrontFacing) colour.rgb = mix(colour.rgb, vec3(dot(colour.rgb, vec3(0.3, 0.6, 0.1))) * vec3(0.75, 0.85, 1.1), 0.6);
    colour.rgb = hatched(colour.rgb, guard);
}
