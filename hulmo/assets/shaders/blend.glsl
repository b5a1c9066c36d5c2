// How Hulmo blends grounds. Free to copy into any engine.
//
// Mapping by position: a ground is looked up three times, along X, Y and Z, in metres, and mixed by axis_weights().
// With p the object-space position in metres and t the ground's tile in metres, the texture coordinates
// (origin at the image's upper left, as in glTF) are
//   along X: (p.z, -p.y) / t      along Y: (p.x, p.z) / t      along Z: (p.x, -p.y) / t
// each plus AXIS_SHIFT of that axis, which keeps the three from mirroring each other along an edge.
// Normal maps have +Y up the image (green up).

const int MOST_GROUNDS = 8;
const vec2 AXIS_SHIFT[3] = vec2[3](vec2(0.37, 0.13), vec2(0.0, 0.0), vec2(0.71, 0.59));

// Share of each axis for a unit normal n. Sums to 1.
vec3 axis_weights(vec3 n) {
    vec3 a = abs(n);
    a *= a;
    a *= a;
    return a / (a.x + a.y + a.z);
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
