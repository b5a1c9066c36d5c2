#version 330 core
// The finished picture onto the screen, with stair-steps softened after Lottes, "FXAA" (2009): where brightness changes
// sharply, the pixel is mixed along the edge; or one that was softened, stretched.
uniform sampler2D picture;
uniform vec2 pixel;
in vec2 at;
out vec4 result;

#if STRETCHED
void main() {
    result = vec4(texture(picture, at).rgb, 1.0);
}
#else
// The pixel so many steps away, as it is, which costs less than a mean of four.
vec3 beside(int x, int y) {
    return texelFetch(picture, clamp(ivec2(gl_FragCoord.xy) + ivec2(x, y), ivec2(0), textureSize(picture, 0) - 1), 0).rgb;
}

float brightness(int x, int y) {
    return dot(beside(x, y), vec3(0.299, 0.587, 0.114));
}

void main() {
    vec3 plain = beside(0, 0);
    float here = dot(plain, vec3(0.299, 0.587, 0.114));
    float nw = brightness(-1, 1);
    float ne = brightness(1, 1);
    float sw = brightness(-1, -1);
    float se = brightness(1, -1);
    float low = min(here, min(min(nw, ne), min(sw, se)));
    float high = max(here, max(max(nw, ne), max(sw, se)));
    if (high - low < max(0.06, high * 0.16)) {
        result = vec4(plain, 1.0);
        return;
    }
    vec2 along = vec2(sw + se - nw - ne, nw + sw - ne - se);
    float reduce = max((nw + ne + sw + se) * 0.03125, 1.0 / 128.0);
    along = clamp(along / (min(abs(along.x), abs(along.y)) + reduce), -8.0, 8.0) * pixel;
    vec3 close = 0.5 * (texture(picture, at + along * (1.0 / 3.0 - 0.5)).rgb
                      + texture(picture, at + along * (2.0 / 3.0 - 0.5)).rgb);
    vec3 wide = close * 0.5 + 0.25 * (texture(picture, at - along * 0.5).rgb + texture(picture, at + along * 0.5).rgb);
    float mixed = dot(wide, vec3(0.299, 0.587, 0.114));
    result = vec4(mixed < low || mixed > high ? close : wide, 1.0);
}
#endif
