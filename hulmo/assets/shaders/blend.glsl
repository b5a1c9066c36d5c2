// How Hulmo blends grounds. Free to copy into any engine.
//
// Mapping by position: a ground is looked up three times, along X, Y and Z, in metres, and mixed by axis_weights().
// With p the object-space position in metres, t the ground's tile in metres and R its turn, the texture coordinates
// (origin at the image's upper left, as in glTF) are
//   along X: R (p.z, -p.y) / t      along Y: R (p.x, p.z) / t      along Z: R (p.x, -p.y) / t
// with R (u, v) = (cos u - sin v, sin u + cos v), each plus AXIS_SHIFT of that axis, which keeps the three from mirroring
// each other along an edge. Mapping by UV: once, at R (uv * metres_per_uv) / t, with metres_per_uv given for every body.
// Normal maps have +Y up the image (green up).
//
// Every lookup: images repeat; texels are mixed bilinearly, albedo in linear light; the two nearest levels of detail are
// mixed by level_of(), without anisotropy. Each level is the mean of 2 x 2 texels of the one below, albedo in linear light.

#ifndef MOST_GROUNDS
#define MOST_GROUNDS 16
#endif
const vec2 AXIS_SHIFT[3] = vec2[3](vec2(0.37, 0.13), vec2(0.0, 0.0), vec2(0.71, 0.59));

// Share of each axis for a unit normal n. Sums to 1; an axis that would have less than a fiftieth has none.
vec3 axis_weights(vec3 n) {
    vec3 a = abs(n);
    a *= a;
    a *= a;
    a = max(a / (a.x + a.y + a.z) - 0.02, 0.0);
    return a / (a.x + a.y + a.z);
}

// Level of detail of an image of `size` texels, where its coordinate changes by dx and dy to the next pixel of the picture.
float level_of(vec2 dx, vec2 dy, vec2 size) {
    dx *= size;
    dy *= size;
    return max(0.5 * log2(max(max(dot(dx, dx), dot(dy, dy)), 1e-12)), 0.0);
}

// Colour of a ground in linear light: albedo times tint, then brightness, contrast about mid grey, gamma, saturation.
vec3 adjusted(vec3 colour, float brightness, float contrast, float gamma, float saturation) {
    vec3 c = max((colour * brightness - 0.18) * contrast + 0.18, 0.0);
    c = pow(c, vec3(1.0 / gamma));
    float grey = dot(c, vec3(0.2126, 0.7152, 0.0722));
    return max(mix(vec3(grey), c, saturation), 0.0);
}

// Three pseudo-random whole numbers for three (pcg3d: Jarzynski and Olano, 2020).
uvec3 hashed(ivec3 at) {
    uvec3 v = uvec3(at) * 1664525u + 1013904223u;
    v.x += v.y * v.z;
    v.y += v.z * v.x;
    v.z += v.x * v.y;
    v ^= v >> 16u;
    v.x += v.y * v.z;
    v.y += v.z * v.x;
    v.z += v.x * v.y;
    return v;
}

// Large-scale variation: what the colour at p (metres) is multiplied with, 1 - strength to 1 + strength, in patches of
// `size` metres.
float varied(vec3 p, float size, float strength) {
    vec3 at = p / size;
    ivec3 cell = ivec3(floor(at));
    vec3 t = at - vec3(cell);
    t = t * t * (3.0 - 2.0 * t);
    float total = 0.0;
    for (int corner = 0; corner < 8; ++corner) {
        ivec3 step = ivec3(corner & 1, (corner >> 1) & 1, (corner >> 2) & 1);
        vec3 w = mix(1.0 - t, t, vec3(step));
        total += float(hashed(cell + step).x) / 4294967295.0 * w.x * w.y * w.z;
    }
    return 1.0 + strength * (2.0 * total - 1.0);
}

// Break-up: the texture is laid in three pieces at a time, each shifted at random, so that no repeat shows. At coordinate
// `uv`, piece i is looked up at uv + shift[i] (with the level of uv) and counts weight[i]. They sum to 1; a piece that would
// count less than a fiftieth counts nothing. joined() mixes them.
void pieces(vec2 uv, out vec3 weight, out vec2 shift[3]) {
    vec2 at = 2.0 * vec2(uv.x - 0.57735027 * uv.y, 1.15470054 * uv.y);
    ivec2 cell = ivec2(floor(at));
    vec2 t = at - vec2(cell);
    float third = 1.0 - t.x - t.y;
    ivec2 a, b, c;
    if (third > 0.0) {
        weight = vec3(third, t.y, t.x);
        a = cell;
        b = cell + ivec2(0, 1);
        c = cell + ivec2(1, 0);
    } else {
        weight = vec3(-third, 1.0 - t.y, 1.0 - t.x);
        a = cell + ivec2(1, 1);
        b = cell + ivec2(1, 0);
        c = cell + ivec2(0, 1);
    }
    weight = max(weight - 0.02, 0.0);
    weight /= weight.x + weight.y + weight.z;
    shift[0] = vec2(hashed(ivec3(a, 0)).xy) / 4294967296.0;
    shift[1] = vec2(hashed(ivec3(b, 0)).xy) / 4294967296.0;
    shift[2] = vec2(hashed(ivec3(c, 0)).xy) / 4294967296.0;
}

// Three pieces as one, about the mean of the whole image, so that they keep its contrast (Heitz and Neyret, 2018): `away` is
// the sum over the pieces of weight (value - mean). For colour, height, normal and roughness alike, each before anything else
// is made of it.
vec4 joined(vec4 away, vec3 weight, vec4 mean) {
    return clamp(mean + away / sqrt(dot(weight, weight)), 0.0, 1.0);
}

// Shares of the grounds at one point, from vertex weights (sum 1) and texture heights (0 to 1).
// depth <= 0 blends linearly: the shares are the weights. Otherwise depth (0.01 to 1) is the softness of a height blend:
// a ground scores s = w * (0.1 + 0.9 * h); what falls more than depth * best behind the best score is gone.
void ground_shares(float weight[MOST_GROUNDS], float height[MOST_GROUNDS], float depth, out float share[MOST_GROUNDS]) {
    if (depth <= 0.0) {
        share = weight;
        return;
    }
    float best = 0.0;
    for (int i = 0; i < MOST_GROUNDS; ++i) {
        share[i] = weight[i] * (0.1 + 0.9 * height[i]);
        best = max(best, share[i]);
    }
    float low = best * (1.0 - depth);
    float total = 0.0;
    for (int i = 0; i < MOST_GROUNDS; ++i) {
        share[i] = max(share[i] - low, 0.0);
        total += share[i];
    }
    for (int i = 0; i < MOST_GROUNDS; ++i) {
        share[i] /= max(total, 1e-6);
    }
}

// What the slant of a normal map (2 xy - 1, turned by R, times ground share and normal_strength) pushes the surface normal
// by, looked up along an axis, each times its axis share; the sum of normal and pushes is normalised.
vec3 pushed_along(int axis, vec2 slant) {
    return axis == 0 ? vec3(0.0, slant.y, slant.x) : axis == 1 ? vec3(slant.x, 0.0, -slant.y) : vec3(slant.x, slant.y, 0.0);
}

// The same, looked up by UV: along the directions in which u grows and v falls, from how position and UV (times
// metres_per_uv) change to the next pixel (Schueler, "Normal mapping without precomputed tangents", 2013).
vec3 pushed_by_uv(vec3 n, vec3 dx, vec3 dy, vec2 uv_dx, vec2 uv_dy, vec2 slant) {
    vec3 across = cross(dy, n);
    vec3 along = cross(n, dx);
    vec3 u = across * uv_dx.x + along * uv_dy.x;
    vec3 v = across * uv_dx.y + along * uv_dy.y;
    float turn = dot(cross(dx, dy), n) < 0.0 ? -1.0 : 1.0;  // where one step is down, as in images
    return (u * slant.x - v * slant.y) * (turn * inversesqrt(max(max(dot(u, u), dot(v, v)), 1e-20)));
}
