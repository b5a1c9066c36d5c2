#version 330 core
// Hands triangles on with the texture coordinates of their corners, which stand in a texture by triangle.
layout(triangles) in;
layout(triangle_strip, max_vertices = 3) out;
uniform sampler2D corner_uv;
uniform int first_triangle;  // of this draw, in the order of the texture
in vec3 position[];
in vec3 normal[];
in float guard[];
in vec4 weight_a[];
out vec3 g_position;
out vec3 g_normal;
out float g_guard;
out vec4 g_weight_a;
out vec2 g_uv;
#if GROUPS > 1
in vec4 weight_b[];
out vec4 g_weight_b;
#endif
#if GROUPS > 2
in vec4 weight_c[];
in vec4 weight_d[];
out vec4 g_weight_c;
out vec4 g_weight_d;
#endif
#if TINTED
in vec4 tint_here[];
out vec4 g_tint;
#endif

void main() {
    int width = textureSize(corner_uv, 0).x;
    for (int i = 0; i < 3; ++i) {
        g_position = position[i];
        g_normal = normal[i];
        g_guard = guard[i];
        g_weight_a = weight_a[i];
#if GROUPS > 1
        g_weight_b = weight_b[i];
#endif
#if GROUPS > 2
        g_weight_c = weight_c[i];
        g_weight_d = weight_d[i];
#endif
#if TINTED
        g_tint = tint_here[i];
#endif
        int at = 3 * (first_triangle + gl_PrimitiveIDIn) + i;
        g_uv = texelFetch(corner_uv, ivec2(at % width, at / width), 0).xy;
        gl_Position = gl_in[i].gl_Position;
        gl_PrimitiveID = gl_PrimitiveIDIn;
        EmitVertex();
    }
    EndPrimitive();
}
