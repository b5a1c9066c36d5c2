// Weights of the grounds as they come from the vertices, four to a vector.
#if GATHERED
// they come from `gathered.glsl`
#elif BY_UV
in vec4 g_weight_a;
#define weight_a g_weight_a
#else
in vec4 weight_a;
#endif
#if GROUPS > 1 && !GATHERED
#if BY_UV
in vec4 g_weight_b;
#define weight_b g_weight_b
#else
in vec4 weight_b;
#endif
#endif
#if GROUPS > 2 && !GATHERED
#if BY_UV
in vec4 g_weight_c;
in vec4 g_weight_d;
#define weight_c g_weight_c
#define weight_d g_weight_d
#else
in vec4 weight_c;
in vec4 weight_d;
#endif
#endif

#include facet.glsl

void weights_here(out float weight[MOST_GROUNDS]) {
    for (int i = 0; i < 4; ++i) {
        weight[i] = weight_a[i];
#if GROUPS > 1
        weight[4 + i] = weight_b[i];
#endif
#if GROUPS > 2
        weight[8 + i] = weight_c[i];
        weight[12 + i] = weight_d[i];
#endif
    }
    int one = one_ground();
    if (one > 0)
        for (int i = 0; i < MOST_GROUNDS; ++i) weight[i] = i == one - 1 ? 1.0 : 0.0;
}
