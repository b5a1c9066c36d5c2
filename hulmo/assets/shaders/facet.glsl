// The normal of the surface: a face that is drawn flat has one of its own, which stands in a texture by triangle.
#if FLAT_FACES && !GATHERED
uniform sampler2D facets;
uniform int first_triangle;  // of this draw, in the order of the texture

vec3 faceted(vec3 smoothed) {
    int width = textureSize(facets, 0).x;
    int at = first_triangle + gl_PrimitiveID;
    vec4 own = texelFetch(facets, ivec2(at % width, at / width), 0);
    return own.w > 0.5 ? own.xyz : smoothed;
}
#else
vec3 faceted(vec3 smoothed) { return smoothed; }
#endif
