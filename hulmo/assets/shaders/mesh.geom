#version 330 core
layout(triangles) in;
layout(triangle_strip, max_vertices = 3) out;
in vec3 position[];
in vec3 normal[];
in float guard[];
out vec3 g_position;
out vec3 g_normal;
out vec3 g_edge;
out float g_guard;

void main() {
    for (int i = 0; i < 3; ++i) {
        g_position = position[i];
        g_normal = normal[i];
        g_guard = guard[i];
        g_edge = vec3(i == 0, i == 1, i == 2);
        gl_Position = gl_in[i].gl_Position;
        gl_PrimitiveID = gl_PrimitiveIDIn;
        EmitVertex();
    }
    EndPrimitive();
}
