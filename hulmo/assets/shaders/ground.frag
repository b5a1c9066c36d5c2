#version 330 core
#include blend.glsl
#include light.glsl
#include hatch.glsl
#include section.glsl
uniform sampler2DArray colour_height;
uniform sampler2DArray normal_rough;
uniform float tile[MOST_GROUNDS];
uniform vec3 tint[MOST_GROUNDS];
uniform vec4 adjust[MOST_GROUNDS];   // brightness, contrast, gamma, saturation
uniform vec4 manner[MOST_GROUNDS];   // cosine and sine of the turn, normal strength, flat shading
uniform vec4 spread[MOST_GROUNDS];   // break-up, variation, its size, mapping by UV
uniform vec4 mean_colour[MOST_GROUNDS];
uniform vec4 mean_detail[MOST_GROUNDS];
uniform int grounds;
uniform float depth;
#if BY_UV
uniform float metres_per_uv;
in vec3 g_position;
in vec3 g_normal;
in float g_guard;
in vec2 g_uv;
#define position g_position
#define normal g_normal
#define guard g_guard
#if TINTED
in vec4 g_tint;
#define tint_here g_tint
#endif
#else
in vec3 position;
in vec3 normal;
in float guard;
#if TINTED
in vec4 tint_here;
#endif
#endif
#include weights.glsl
out vec4 colour;

// Texture coordinate in metres, seen along one axis (see blend.glsl), of a point or of a screen derivative.
vec2 plane(vec3 p, int axis) {
    return axis == 1 ? p.xz : vec2(axis == 0 ? p.z : p.x, -p.y);
}

vec2 turned(vec2 v, int ground) {
#if !TURNED
    return v;
#endif
    return vec2(manner[ground].x * v.x - manner[ground].y * v.y, manner[ground].y * v.x + manner[ground].x * v.y);
}

// What a palette does not use is left out of the program, for drawers that walk both ways of a branch.
vec4 texel_of(sampler2DArray map, vec2 uv, int ground, vec2 dx, vec2 dy, vec4 mean) {
#if BROKEN
    if (spread[ground].x < 0.5) return textureGrad(map, vec3(uv, ground), dx, dy);
    vec3 w;
    vec2 shift[3];
    pieces(uv, w, shift);
#if QUICK
    int best = w.x >= w.y && w.x >= w.z ? 0 : (w.y >= w.z ? 1 : 2);
    return textureGrad(map, vec3(uv + shift[best], ground), dx, dy);
#else
    vec4 away = vec4(0.0);
    for (int i = 0; i < 3; ++i) {
        if (w[i] > 0.02) away += w[i] * (textureGrad(map, vec3(uv + shift[i], ground), dx, dy) - mean);
    }
    return clamp(mean + away / sqrt(dot(w, w)), 0.0, 1.0);
#endif
#else
    return textureGrad(map, vec3(uv, ground), dx, dy);
#endif
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
#if BY_UV
    vec2 by_uv = g_uv * metres_per_uv;
    vec2 uv_dx = dFdx(by_uv);
    vec2 uv_dy = dFdy(by_uv);
#endif
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
    float all_weights[MOST_GROUNDS];
    weights_here(all_weights);
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
#if BY_UV
        if (spread[ground].w > 0.5) {
            texel = texel_of(colour_height, turned(by_uv, ground) * s, ground, turned(uv_dx, ground) * s,
                turned(uv_dy, ground) * s, mean_colour[ground]);
        } else
#endif
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = turned(plane(position, axis), ground) * s + AXIS_SHIFT[axis];
            texel += axis_share[a]
                * texel_of(colour_height, uv, ground, turned(plane(dx, axis), ground) * s,
                    turned(plane(dy, axis), ground) * s, mean_colour[ground]);
        }
        albedo[k] = texel.rgb * tint[ground];
#if ADJUSTED
        albedo[k] = adjusted(albedo[k], adjust[ground].x, adjust[ground].y, adjust[ground].z, adjust[ground].w);
#endif
#if VARIED
        albedo[k] *= varied(position, spread[ground].z, spread[ground].y);
#endif
        height[k] = texel.a;
    }
    ground_shares(weight, height, depth, share);
    vec3 base = vec3(0.0);
    for (int k = 0; k < count; ++k) base += albedo[k] * share[k];
#if TINTED
    base *= 1.0 - tint_here.a + tint_here.rgb;
#endif
#if LOOK_GROUND
    colour = vec4(base, 1.0);
#else
    vec3 shading = n;
#if FACETED
    float flat_share = 0.0;
    for (int k = 0; k < count; ++k) flat_share += share[k] * manner[ground_of[k]].w;
    vec3 face = normalize(cross(dx, dy));
    shading = normalize(mix(n, dot(face, n) < 0.0 ? -face : face, flat_share));
#endif
    float rough = 0.9;
    vec3 bent = shading;
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
#if BY_UV
        if (spread[ground].w > 0.5) {
            vec3 texel = texel_of(normal_rough, turned(by_uv, ground) * s, ground, turned(uv_dx, ground) * s,
                turned(uv_dy, ground) * s, mean_detail[ground]).xyz;
            vec2 slant = texel.xy * 2.0 - 1.0;
            slant = turned(slant, ground) * (share[k] * manner[ground].z);
            // directions in which u and v grow (Schueler, "Normal mapping without precomputed tangents", 2013)
            vec3 across = cross(dy, n);
            vec3 along = cross(n, dx);
            vec3 tu = across * uv_dx.x + along * uv_dy.x;
            vec3 tv = across * uv_dx.y + along * uv_dy.y;
            float size = inversesqrt(max(max(dot(tu, tu), dot(tv, tv)), 1e-20));
            push += (tu * slant.x - tv * slant.y) * size;
            rough += texel.z * share[k];
            continue;
        }
#endif
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = turned(plane(position, axis), ground) * s + AXIS_SHIFT[axis];
            vec3 texel = texel_of(normal_rough, uv, ground, turned(plane(dx, axis), ground) * s,
                turned(plane(dy, axis), ground) * s, mean_detail[ground]).xyz;
            vec2 slant = turned(texel.xy * 2.0 - 1.0, ground) * (axis_share[a] * share[k] * manner[ground].z);
            rough += texel.z * axis_share[a] * share[k];
            push += axis == 0 ? vec3(0.0, slant.y, slant.x)
                  : axis == 1 ? vec3(slant.x, 0.0, -slant.y) : vec3(slant.x, slant.y, 0.0);
        }
    }
    bent = normalize(shading + push);
    rough = clamp(rough, 0.05, 1.0);
#endif
    colour = vec4(lit(position, shading, bent, base, rough), 1.0);
#endif
    // back faces are plainly different: cooler and darker
    if (!gl_FrontFacing) colour.rgb = mix(colour.rgb, vec3(dot(colour.rgb, vec3(0.3, 0.6, 0.1))) * vec3(0.75, 0.85, 1.1), 0.6);
    colour.rgb = hatched(colour.rgb, guard);
}
