#version 330 core
layout(triangles) in;
layout(triangle_strip, max_vertices = 3) out;
in vec3 position[];
in vec3 normal[];
in float guard[];
out vec3 g_position;
out vec3 g_normal;
out float g_guard;
flat out float g_longest;

void main() {
    float longest = max(max(distance(position[0], position[1]), distance(position[1], position[2])),
        distance(position[2], position[0]));
    for (int i = 0; i < 3; ++i) {
        g_position = position[i];
        g_normal = normal[i];
        g_guard = guard[i];
        g_longest = longest;
        gl_Position = gl_in[i].gl_Position;
        gl_PrimitiveID = gl_PrimitiveIDIn;
        EmitVertex();
    }
    EndPrimitive();
}
