#version 330 core
#include blend.glsl
#if GATHERED
#include gathered.glsl
#endif
#include light.glsl
#include hatch.glsl
#include section.glsl
uniform sampler2DArray colour_height_0;
uniform sampler2DArray normal_rough_0;
#if BANKS > 1
uniform sampler2DArray colour_height_1;
uniform sampler2DArray normal_rough_1;
#endif
#if BANKS > 2
uniform sampler2DArray colour_height_2;
uniform sampler2DArray normal_rough_2;
#endif
#if BANKS > 3
uniform sampler2DArray colour_height_3;
uniform sampler2DArray normal_rough_3;
#endif
uniform vec4 image[MOST_GROUNDS];    // which pair of arrays, which layer, width and height
uniform vec2 factor[MOST_GROUNDS];   // what heights make of a weight, at the least and at the most
uniform float tile[MOST_GROUNDS];
uniform vec3 tint[MOST_GROUNDS];
uniform vec4 adjust[MOST_GROUNDS];   // brightness, contrast, gamma, saturation
uniform vec4 manner[MOST_GROUNDS];   // cosine and sine of the turn, normal strength, flat shading
uniform vec4 spread[MOST_GROUNDS];   // break-up, variation, its size, mapping by UV
uniform vec4 mean_colour[MOST_GROUNDS];
uniform vec4 mean_detail[MOST_GROUNDS];
uniform int grounds;
uniform float depth;
uniform int first_ground;
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
#elif !GATHERED
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
vec4 fetched(bool detail, vec2 uv, int ground, float level) {
    vec3 at = vec3(uv, image[ground].y);
#if BANKS > 1
    if (image[ground].x > 0.5 && image[ground].x < 1.5)
        return detail ? textureLod(normal_rough_1, at, level) : textureLod(colour_height_1, at, level);
#endif
#if BANKS > 2
    if (image[ground].x > 1.5 && image[ground].x < 2.5)
        return detail ? textureLod(normal_rough_2, at, level) : textureLod(colour_height_2, at, level);
#endif
#if BANKS > 3
    if (image[ground].x > 2.5)
        return detail ? textureLod(normal_rough_3, at, level) : textureLod(colour_height_3, at, level);
#endif
    return detail ? textureLod(normal_rough_0, at, level) : textureLod(colour_height_0, at, level);
}

vec4 texel_of(bool detail, vec2 uv, int ground, vec2 dx, vec2 dy) {
    float level = level_of(dx, dy, image[ground].zw);
#if BROKEN && HASTY
    if (spread[ground].x > 0.5) {  // the piece that counts most
        vec3 w;
        vec2 shift[3];
        pieces(uv, w, shift);
        uv += w.x >= max(w.y, w.z) ? shift[0] : w.y >= w.z ? shift[1] : shift[2];
    }
    return fetched(detail, uv, ground, level);
#elif BROKEN
    // loops of no or one turn instead of branches
    bool broken = spread[ground].x > 0.5;
    vec3 w = vec3(1.0, 0.0, 0.0);
    vec2 shift[3] = vec2[3](vec2(0.0), vec2(0.0), vec2(0.0));
    for (int once = broken ? 0 : 1; once < 1; ++once) pieces(uv, w, shift);
    vec4 mean = detail ? mean_detail[ground] : mean_colour[ground];
    vec4 away = vec4(0.0);
    int count = 0;
    vec3 at[3];
    for (int i = 0; i < 3; ++i) {
        at[count] = vec3(shift[i], w[i]);
        if (w[i] > 0.0) ++count;
    }
    for (int i = 0; i < count; ++i) away += at[i].z * (fetched(detail, uv + at[i].xy, ground, level) - mean);
    return joined(away, w, mean);
#else
    return fetched(detail, uv, ground, level);
#endif
}


void main() {
#if GATHERED
    if (!gathered()) discard;
    vec3 dx = position_dx;
    vec3 dy = position_dy;
#else
    if (cut_away(position)) discard;
    vec3 dx = dFdx(position);
    vec3 dy = dFdy(position);
#endif
    if (sectioned == 1 && !FRONT) {
        colour = vec4(cap_colour(), 1.0);
        return;
    }
    vec3 n = normalize(faceted(normal));
    if (!FRONT) n = -n;
#if BY_UV
    vec2 by_uv = g_uv * metres_per_uv;
    vec2 uv_dx = dFdx(by_uv);
    vec2 uv_dy = dFdy(by_uv);
#endif
#if HASTY
    // along the axis that counts most, and only what the blend is made of
    vec3 a = abs(n);
    vec3 axes = a.x >= max(a.y, a.z) ? vec3(1.0, 0.0, 0.0) : a.y >= a.z ? vec3(0.0, 1.0, 0.0) : vec3(0.0, 0.0, 1.0);
#else
    vec3 axes = axis_weights(n);
#endif
    // Only what counts is looked up: lists instead of branches, so that slow drawers skip the rest.
    int axis_of[3];
    float axis_share[3];
    int axis_count = 0;
    for (int axis = 0; axis < 3; ++axis) {
        if (axes[axis] > 0.0) {
            axis_of[axis_count] = axis;
            axis_share[axis_count] = axes[axis];
            ++axis_count;
        }
    }
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
    // in a height blend, a ground that even its highest height would leave too far behind has no share
    float least = 0.0;
    for (int i = 0; i < grounds; ++i) least = max(least, all_weights[i] * factor[i].x);
    least = depth > 0.0 ? least * (1.0 - depth) : 0.0;
    int count = 0;
    for (int i = 0; i < grounds; ++i) {
        if (all_weights[i] * factor[i].y > least) {
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
            texel = texel_of(false, turned(by_uv, ground) * s, ground, turned(uv_dx, ground) * s, turned(uv_dy, ground) * s);
        } else
#endif
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = turned(plane(position, axis), ground) * s + AXIS_SHIFT[axis];
            texel += axis_share[a]
                * texel_of(false, uv, ground, turned(plane(dx, axis), ground) * s, turned(plane(dy, axis), ground) * s);
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
#if LOOK_SHARE
    // shares of four grounds, those from `first_ground` on
    colour = vec4(0.0);
    for (int k = 0; k < count; ++k)
        for (int i = 0; i < 4; ++i)
            if (ground_of[k] == first_ground + i) colour[i] += share[k];
    return;
#elif LOOK_GROUND
    colour = vec4(base, 1.0);
#else
    vec3 shading = n;
#if FACETED
    float flat_share = 0.0;
    for (int k = 0; k < count; ++k) flat_share += share[k] * manner[ground_of[k]].w;
    vec3 face = normalize(cross(dx, dy));
    shading = normalize(mix(n, dot(face, n) < 0.0 ? -face : face, flat_share));
#endif
    float rough = 0.0;
    vec3 push = vec3(0.0);
    int seen = 0;
    for (int k = 0; k < count; ++k) {
        if (share[k] > 0.0) {
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
            vec3 texel = texel_of(true, turned(by_uv, ground) * s, ground, turned(uv_dx, ground) * s,
                turned(uv_dy, ground) * s).xyz;
            vec2 slant = turned(texel.xy * 2.0 - 1.0, ground) * (share[k] * manner[ground].z);
            push += pushed_by_uv(n, dx, dy, uv_dx, uv_dy, slant);
            rough += texel.z * share[k];
            continue;
        }
#endif
        for (int a = 0; a < axis_count; ++a) {
            int axis = axis_of[a];
            vec2 uv = turned(plane(position, axis), ground) * s + AXIS_SHIFT[axis];
            vec3 texel = texel_of(true, uv, ground, turned(plane(dx, axis), ground) * s, turned(plane(dy, axis), ground) * s).xyz;
            vec2 slant = turned(texel.xy * 2.0 - 1.0, ground) * (axis_share[a] * share[k] * manner[ground].z);
            push += pushed_along(axis, slant);
            rough += texel.z * axis_share[a] * share[k];
        }
    }
    vec3 bent = normalize(shading + push);
    rough = clamp(rough, 0.05, 1.0);
#if LOOK_NORMAL
    colour = vec4(bent * 0.5 + 0.5, 1.0);
#elif LOOK_ROUGH
    colour = vec4(vec3(rough), 1.0);
#else
    colour = vec4(lit(position, shading, bent, base, rough), 1.0);
#endif
#endif
    colour.rgb = hatched(back_marked(colour.rgb), guard);
}
