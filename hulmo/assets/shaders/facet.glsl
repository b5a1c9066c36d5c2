// What a face has of its own, which stands in a texture by triangle: a normal where it is drawn flat, and a ground that alone
// lies on it.
#if FLAT_FACES && !GATHERED
uniform sampler2D facets;
uniform int first_triangle;  // of this draw, in the order of the texture

vec4 own_of_face() {
    int width = textureSize(facets, 0).x;
    int at = first_triangle + gl_PrimitiveID;
    return texelFetch(facets, ivec2(at % width, at / width), 0);
}

vec3 faceted(vec3 smoothed) {
    vec4 own = own_of_face();
    return mod(own.w, 2.0) > 0.5 ? own.xyz : smoothed;
}

// Number of the one ground from 1, or 0.
int one_ground() { return int(own_of_face().w) / 2; }
#else
vec3 faceted(vec3 smoothed) { return smoothed; }
int one_ground() { return 0; }
#endif
