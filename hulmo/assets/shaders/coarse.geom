#version 330 core
layout(triangles) in;
layout(triangle_strip, max_vertices = 3) out;
in vec3 position[];
in vec3 normal[];
in float guard[];
in vec4 weight_a[];
#if GROUPS > 1
in vec4 weight_b[];
#endif
#if GROUPS > 2
in vec4 weight_c[];
in vec4 weight_d[];
#endif
out vec3 g_position;
out vec3 g_normal;
out float g_guard;
flat out float g_longest;
flat out float g_gap;

float largest(vec4 a, vec4 b, vec4 c) {
    vec4 gap = max(max(a, b), c) - min(min(a, b), c);
    return max(max(gap.x, gap.y), max(gap.z, gap.w));
}

void main() {
    float longest = max(max(distance(position[0], position[1]), distance(position[1], position[2])),
        distance(position[2], position[0]));
    float gap = largest(weight_a[0], weight_a[1], weight_a[2]);
#if GROUPS > 1
    gap = max(gap, largest(weight_b[0], weight_b[1], weight_b[2]));
#endif
#if GROUPS > 2
    gap = max(gap, largest(weight_c[0], weight_c[1], weight_c[2]));
    gap = max(gap, largest(weight_d[0], weight_d[1], weight_d[2]));
#endif
    for (int i = 0; i < 3; ++i) {
        g_position = position[i];
        g_normal = normal[i];
        g_guard = guard[i];
        g_longest = longest;
        g_gap = gap;
        gl_Position = gl_in[i].gl_Position;
        gl_PrimitiveID = gl_PrimitiveIDIn;
        EmitVertex();
    }
    EndPrimitive();
}
