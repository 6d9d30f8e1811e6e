#include "app/view/renderer.h"
#include "app/theme/theme.h"
#include "app/view/light_mesh.h"
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVersionFunctionsFactory>
#include <chrono>
#include <future>
#include <unordered_map>

namespace lp {
namespace {

using GL = QOpenGLFunctions_3_3_Core;
using theme::Role;

const char* body_vertex = R"(#version 330 core
layout(location=0) in vec3 position; layout(location=1) in vec3 normal; layout(location=2) in uint face; layout(location=3) in float value_in;
uniform mat4 mvp; uniform mat4 place; uniform mat3 turn; uniform vec4 section;
out vec3 n; flat out uint face_id; out float value;
void main(){
  value = value_in;
  vec4 world = place*vec4(position,1);
  gl_Position = mvp*world; gl_ClipDistance[0] = dot(section, world);
  n = turn*normal; face_id = face;
})";

// Matte light from the upper left, softened. A map colours by its values: evenly from end to end of its scale with
// contours, or from the part's own colour up to a limit and hatched beyond it.
const char* body_fragment = R"(#version 330 core
in vec3 n; flat in uint face_id; in float value;
uniform int map_scale; uniform float map_high; uniform float map_contour; uniform float map_limit; uniform vec3 scale[5];
uniform vec3 colour; uniform float alpha; uniform usamplerBuffer selected; uniform int any_selected; uniform int hovered; uniform int whole;
uniform vec3 select_colour; uniform vec3 hover_colour; uniform vec3 hang_colour; uniform vec3 hatch_colour; uniform int glass;
out vec4 fragment;
void main(){
  vec3 N = normalize(n); if(!gl_FrontFacing) N=-N;
  vec3 c = colour;
  if (map_scale == 2) {
    float near = smoothstep(map_limit*0.5, map_limit, value)*0.35;
    c = mix(c, hang_colour, near);
    if (value > map_limit + 0.01) { float h = mod(gl_FragCoord.x+gl_FragCoord.y, 9.0); c = h<2.0 ? hatch_colour : hang_colour; }
  }
  if (map_scale == 1 && value >= 0.0) {
    float t = clamp(value/map_high, 0.0, 0.9999)*4.0; int i = int(t);
    c = mix(scale[i], scale[i+1], t-float(i));
    // Lines half way between the round values: an even gap as wanted stays clear of them.
    float line = abs(fract(value/map_contour)-0.5)*map_contour/max(fwidth(value),1e-6);
    c = mix(c*0.35, c, smoothstep(0.4, 1.2, line));
  }
  if (whole == 1) c = mix(c, select_colour, 0.34);
  if (whole == 2) c = mix(c, hover_colour, 0.22);
  if (any_selected == 1 && texelFetch(selected, int(face_id)).r > 0u) c = mix(c, select_colour, 0.72);
  if (hovered == int(face_id)) c = mix(c, hover_colour, 0.5);
  float key = max(dot(N, normalize(vec3(-0.35,0.55,0.76))),0.0);
  float fill = max(dot(N, normalize(vec3(0.75,0.1,0.45))),0.0);
  float light = 0.42 + 0.50*key + 0.14*fill;
  if (glass == 1) light = 0.80 + 0.20*key;
  fragment = vec4(min(c*light, vec3(1.0)), alpha);
})";

const char* edge_vertex = R"(#version 330 core
layout(location=0) in vec3 a_point; layout(location=1) in vec3 b_point; layout(location=2) in uint edge;
uniform mat4 mvp; uniform mat4 place; uniform vec2 viewport; uniform float width; uniform vec4 section; uniform usamplerBuffer selected; uniform int any_selected; uniform int hovered; uniform float bias;
out float side; out float along; flat out float half_width; flat out int state;
void main(){
  vec4 wa = place*vec4(a_point,1), wb = place*vec4(b_point,1);
  vec4 a = mvp*wa, b = mvp*wb;
  vec2 d = (b.xy/b.w-a.xy/a.w)*viewport; float l = length(d); d = l>1e-6 ? d/l : vec2(1,0); vec2 nn = vec2(-d.y,d.x);
  state = 0; if (any_selected == 1 && texelFetch(selected, int(edge)).r > 0u) state = 2; if (state==0 && hovered==int(edge)) state = 1;
  half_width = (state==2 ? width+5.0 : state==1 ? width+4.0 : width)*0.5; float reach = half_width+0.75;
  float s = ((gl_VertexID&1)==0) ? -1.0 : 1.0; bool second = gl_VertexID>=2;
  vec4 p = second ? b : a;
  p.xy += (nn*s*reach + d*(second?0.5:-0.5))*2.0/viewport*p.w; p.z -= (state>0 ? bias*2.0 : bias)*p.w;
  gl_Position = p; side = s*reach; along = second ? l*0.5 : 0.0; gl_ClipDistance[0] = dot(section, second?wb:wa);
})";

const char* edge_fragment = R"(#version 330 core
in float side; in float along; flat in float half_width; flat in int state; uniform vec4 ink; uniform vec3 select_colour; uniform float dash; out vec4 fragment;
// What is chosen is a dark line between light ones, what is hovered a light one between dark ones: seen on every colour.
void main(){
  float a = clamp(half_width+0.5-abs(side),0.0,1.0)*ink.a;
  if (dash > 0.0 && mod(along, dash) > dash*0.6) discard;
  vec3 light = vec3(1.0,0.97,0.88);
  float core = smoothstep(half_width-2.1, half_width-1.1, abs(side));
  vec3 c = state==2 ? mix(select_colour, light, core) : state==1 ? mix(light, select_colour, core) : ink.rgb;
  fragment = vec4(c, state>0 ? clamp(half_width+0.5-abs(side),0.0,1.0) : a);
})";

const char* plane_vertex = R"(#version 330 core
uniform mat4 mvp; uniform vec3 origin, ux, uy; out vec2 at;
void main(){ vec2 s = vec2((gl_VertexID&1)*2-1,(gl_VertexID>>1)*2-1); at = s; gl_Position = mvp*vec4(origin+ux*s.x+uy*s.y,1); })";

const char* cap_fragment = R"(#version 330 core
uniform vec3 colour; uniform vec3 hatch; out vec4 fragment;
void main(){ float h = mod(gl_FragCoord.x-gl_FragCoord.y,8.0); fragment = vec4(h<1.4 ? hatch : colour,1); })";

const char* mat_fragment = R"(#version 330 core
in vec2 at; uniform vec2 half_size; uniform vec3 ground; uniform vec3 grid; uniform float pixel; uniform float alpha; out vec4 fragment;
float lines(vec2 p, float step, float width){
  // Width in pixels along each axis, whatever the slant of the view.
  vec2 w = max(fwidth(p), vec2(1e-4))*width; vec2 g = abs(fract(p/step-0.5)-0.5)*step/w; return 1.0-clamp(min(g.x,g.y),0.0,1.0); }
void main(){
  vec2 p = at*half_size; float l = 0.0;
  if (pixel < 0.09) l = max(l, 0.22*lines(p, 1.0, 1.0));
  if (pixel < 1.2) l = max(l, 0.42*lines(p, 10.0, 0.75));
  l = max(l, 0.85*lines(p, 50.0, 1.0));
  vec2 rim = (half_size-abs(p))/max(fwidth(p),vec2(1e-4)); l = max(l, 1.0-clamp(min(rim.x,rim.y)-0.8,0.0,1.0));
  fragment = vec4(mix(ground, grid, l), alpha);
})";

const char* ground_vertex = R"(#version 330 core
out float y; void main(){ vec2 s = vec2((gl_VertexID&1)*2-1,(gl_VertexID>>1)*2-1); y = s.y*0.5+0.5; gl_Position = vec4(s,1,1); })";
const char* ground_fragment = R"(#version 330 core
in float y; uniform vec3 top; uniform vec3 bottom; out vec4 fragment; void main(){ fragment = vec4(mix(bottom, top, y),1); })";

QVector3D rgb(const QColor& c) {
    return {float(c.redF()), float(c.greenF()), float(c.blueF())};
}

QMatrix4x4 to_matrix(const Transform& t) {
    QMatrix4x4 m;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) m(r, c) = float(t.matrix()(r, c));
    return m;
}

struct Vertex {
    float p[3], n[3];
    uint32_t face;
};

std::vector<Vertex> light_vertices(const Tessellation& shape) {
    const LightMesh light = light_mesh(shape);
    std::vector<Vertex> vertices;
    vertices.reserve(light.mesh.triangles.size() * 3);
    for (size_t i = 0; i < light.mesh.triangles.size(); ++i) {
        const Vec3 n = light.mesh.area_vector(i).normalized();
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = light.mesh.corner(i, k);
            vertices.push_back({{float(p.x()), float(p.y()), float(p.z())},
                                {float(n.x()), float(n.y()), float(n.z())},
                                light.face_of[i]});
        }
    }
    return vertices;
}

struct GpuBody {
    GLuint vao = 0, vertices = 0, edge_vao = 0, edges = 0, values = 0;
    std::shared_ptr<const SurfaceMap> map; ///< whose values are there
    GLsizei vertex_count = 0, segment_count = 0;
    bool closed = false; ///< surely: exact bodies are
    bool used = true;
    // Of a large one: a light stand-in, made beside and drawn while the view moves.
    std::shared_future<std::vector<Vertex>> light_wanted;
    GLuint light_vao = 0, light_vertices = 0;
    GLsizei light_count = 0;
};
struct Segment {
    float a[3], b[3];
    uint32_t edge;
};

} // namespace

struct Renderer::Engine {
    QOffscreenSurface surface;
    QOpenGLContext context;
    GL* gl = nullptr;
    QString problem;
    QOpenGLShaderProgram body, edge, cap, mat, ground;
    bool moving = false;
    GLuint empty_vao = 0, chosen_buffer = 0, chosen_texture = 0;
    std::unique_ptr<QOpenGLFramebufferObject> target;
    std::unordered_map<const Tessellation*, GpuBody> bodies;
    std::unordered_map<const Tessellation*, std::shared_ptr<const Tessellation>>
        alive; // a freed address may come again

    Engine() {
        QSurfaceFormat format;
        format.setVersion(3, 3);
        format.setProfile(QSurfaceFormat::CoreProfile);
        format.setDepthBufferSize(24);
        format.setStencilBufferSize(8);
        context.setFormat(format);
        if (!context.create()) {
            problem =
                "There is no OpenGL here, so the view cannot be drawn. Install a graphics driver with OpenGL 3.3.";
            return;
        }
        surface.setFormat(context.format());
        surface.create();
        if (!context.makeCurrent(&surface)) {
            problem = "OpenGL could not be started, so the view cannot be drawn.";
            return;
        }
        gl = QOpenGLVersionFunctionsFactory::get<GL>(&context);
        if (!gl || !gl->initializeOpenGLFunctions()) {
            problem = "The graphics driver offers less than OpenGL 3.3, so the view cannot be drawn.";
            gl = nullptr;
            return;
        }
        link(body, body_vertex, body_fragment);
        link(edge, edge_vertex, edge_fragment);
        link(cap, plane_vertex, cap_fragment);
        link(mat, plane_vertex, mat_fragment);
        link(ground, ground_vertex, ground_fragment);
        gl->glGenVertexArrays(1, &empty_vao);
    }

    ~Engine() {
        if (!gl || !context.makeCurrent(&surface)) return;
        for (auto& [shape, gpu] : bodies) release(gpu);
        gl->glDeleteVertexArrays(1, &empty_vao);
        if (chosen_buffer) gl->glDeleteBuffers(1, &chosen_buffer);
        if (chosen_texture) gl->glDeleteTextures(1, &chosen_texture);
        target.reset();
        for (auto* program : {&body, &edge, &cap, &mat, &ground}) program->removeAllShaders();
        context.doneCurrent();
    }

    void link(QOpenGLShaderProgram& program, const char* vertex, const char* fragment) {
        if (!program.addShaderFromSourceCode(QOpenGLShader::Vertex, vertex) ||
            !program.addShaderFromSourceCode(QOpenGLShader::Fragment, fragment) || !program.link())
            problem = "The view's drawing programs were refused by the graphics driver: " + program.log();
    }

    void release(GpuBody& b) {
        GLuint buffers[] = {b.vertices, b.edges, b.values, b.light_vertices},
               arrays[] = {b.vao, b.edge_vao, b.light_vao};
        gl->glDeleteBuffers(4, buffers);
        gl->glDeleteVertexArrays(3, arrays);
    }

    /// The values of a map at the corners of the facets.
    void put_values(GpuBody& b, const std::shared_ptr<const SurfaceMap>& map) {
        if (!map || map == b.map || map->values->size() != size_t(b.vertex_count)) return;
        gl->glBindVertexArray(b.vao);
        if (!b.values) gl->glGenBuffers(1, &b.values);
        gl->glBindBuffer(GL_ARRAY_BUFFER, b.values);
        gl->glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(map->values->size() * sizeof(float)), map->values->data(),
                         GL_STATIC_DRAW);
        gl->glVertexAttribPointer(3, 1, GL_FLOAT, GL_FALSE, sizeof(float), nullptr);
        gl->glEnableVertexAttribArray(3);
        b.map = map;
    }

    void put_vertices(const std::vector<Vertex>& vertices, GLuint& vao, GLuint& buffer) {
        gl->glGenVertexArrays(1, &vao);
        gl->glBindVertexArray(vao);
        gl->glGenBuffers(1, &buffer);
        gl->glBindBuffer(GL_ARRAY_BUFFER, buffer);
        gl->glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(vertices.size() * sizeof(Vertex)), vertices.data(),
                         GL_STATIC_DRAW);
        gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(Vertex), nullptr);
        gl->glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, sizeof(Vertex), reinterpret_cast<void*>(12));
        gl->glVertexAttribIPointer(2, 1, GL_UNSIGNED_INT, sizeof(Vertex), reinterpret_cast<void*>(24));
        for (GLuint i = 0; i < 3; ++i) gl->glEnableVertexAttribArray(i);
    }

    /// Whether the light stand-in is drawn: while the view moves, once it is there, and where no map is shown.
    bool is_light(const SceneBody& body, GpuBody& b) {
        if (!moving || body.map || !b.light_wanted.valid()) return false;
        if (!b.light_vao) {
            if (b.light_wanted.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return false;
            b.light_count = GLsizei(b.light_wanted.get().size());
            put_vertices(b.light_wanted.get(), b.light_vao, b.light_vertices);
        }
        return true;
    }

    GpuBody& upload(const SceneBody& body) {
        const std::shared_ptr<const Tessellation>& shape = body.shape;
        auto found = bodies.find(shape.get());
        if (found != bodies.end()) {
            found->second.used = true;
            put_values(found->second, body.map);
            return found->second;
        }
        GpuBody b;
        std::vector<Vertex> vertices;
        vertices.reserve(shape->mesh.triangles.size() * 3);
        for (size_t i = 0; i < shape->mesh.triangles.size(); ++i)
            for (int k = 0; k < 3; ++k) {
                const Vec3 &p = shape->mesh.corner(i, k), &n = shape->normals[i][size_t(k)];
                vertices.push_back({{float(p.x()), float(p.y()), float(p.z())},
                                    {float(n.x()), float(n.y()), float(n.z())},
                                    shape->face_of[i]});
            }
        std::vector<Segment> segments;
        for (uint32_t e = 0; e < shape->edges.size(); ++e)
            for (size_t k = 1; k < shape->edges[e].points.size(); ++k) {
                const Vec3 &a = shape->edges[e].points[k - 1], &c = shape->edges[e].points[k];
                segments.push_back(
                    {{float(a.x()), float(a.y()), float(a.z())}, {float(c.x()), float(c.y()), float(c.z())}, e});
            }
        b.closed =
            std::any_of(shape->edges.begin(), shape->edges.end(), [](const EdgeInfo& e) { return e.number >= 0; });
        b.vertex_count = GLsizei(vertices.size());
        b.segment_count = GLsizei(segments.size());
        put_vertices(vertices, b.vao, b.vertices);
        if (shape->mesh.triangles.size() > light_from_facets)
            b.light_wanted = std::async(std::launch::async, [shape] { return light_vertices(*shape); }).share();
        put_values(b, body.map);
        gl->glGenVertexArrays(1, &b.edge_vao);
        gl->glBindVertexArray(b.edge_vao);
        gl->glGenBuffers(1, &b.edges);
        gl->glBindBuffer(GL_ARRAY_BUFFER, b.edges);
        gl->glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(segments.size() * sizeof(Segment)), segments.data(),
                         GL_STATIC_DRAW);
        gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(Segment), nullptr);
        gl->glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, sizeof(Segment), reinterpret_cast<void*>(12));
        gl->glVertexAttribIPointer(2, 1, GL_UNSIGNED_INT, sizeof(Segment), reinterpret_cast<void*>(24));
        for (GLuint i = 0; i < 3; ++i) {
            gl->glEnableVertexAttribArray(i);
            gl->glVertexAttribDivisor(i, 1);
        }
        gl->glBindVertexArray(0);
        alive[shape.get()] = shape;
        return bodies.emplace(shape.get(), b).first->second;
    }

    void forget_unused() {
        for (auto it = bodies.begin(); it != bodies.end();)
            if (it->second.used) {
                it->second.used = false;
                ++it;
            } else {
                release(it->second);
                alive.erase(it->first);
                it = bodies.erase(it);
            }
    }

    QVector4D section_of(const Scene& scene) const {
        if (!scene.section) return {0, 0, 0, 1};
        const auto& s = *scene.section;
        return {float(s.x()), float(s.y()), float(s.z()), float(s.w())};
    }

    /// Behind all: only where nothing else was drawn.
    void draw_ground() {
        ground.bind();
        ground.setUniformValue("top", rgb(theme::colour(Role::ViewTop)));
        ground.setUniformValue("bottom", rgb(theme::colour(Role::ViewBottom)));
        gl->glBindVertexArray(empty_vao);
        gl->glDepthFunc(GL_LEQUAL); // it lies at the far end of the depth range
        gl->glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
        gl->glDepthFunc(GL_LESS);
    }

    void draw_mat(const Scene& scene, const QMatrix4x4& mvp, double pixel, bool from_below) {
        mat.bind();
        mat.setUniformValue("mvp", mvp);
        mat.setUniformValue("ux", QVector3D(float(scene.bed_mm.x() / 2), 0, 0));
        mat.setUniformValue("uy", QVector3D(0, float(scene.bed_mm.y() / 2), 0));
        mat.setUniformValue("half_size", QVector2D(float(scene.bed_mm.x() / 2), float(scene.bed_mm.y() / 2)));
        mat.setUniformValue("ground", rgb(theme::colour(Role::Mat)));
        mat.setUniformValue("grid", rgb(theme::colour(Role::MatGrid)));
        mat.setUniformValue("pixel", float(pixel));
        mat.setUniformValue("alpha", from_below ? 0.25f : 1.0f);
        gl->glEnable(GL_BLEND);
        gl->glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        if (from_below) gl->glDepthMask(GL_FALSE);
        gl->glBindVertexArray(empty_vao);
        for (size_t bed = 0; bed < scene.beds; ++bed) {
            const Vec3 at =
                Vec3(scene.bed_centre.x(), scene.bed_centre.y(), scene.bed_z - 0.05) + double(bed) * scene.to_next_bed;
            mat.setUniformValue("origin", QVector3D(float(at.x()), float(at.y()), float(at.z())));
            gl->glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
        }
        gl->glDepthMask(GL_TRUE);
        gl->glDisable(GL_BLEND);
    }

    struct States {
        std::vector<uint8_t> faces, edges; ///< 1 for the chosen ones; empty when none is
        int hovered_face = -1, hovered_edge = -1, whole = 0;
    };
    static void choose(std::vector<uint8_t>& chosen, size_t count, size_t index) {
        if (index >= count) return;
        chosen.resize(count);
        chosen[index] = 1;
    }
    /// What is chosen, as many as there are, for a program that looks it up by its number.
    void bind_chosen(QOpenGLShaderProgram& program, const std::vector<uint8_t>& chosen) {
        program.setUniformValue("any_selected", int(!chosen.empty()));
        program.setUniformValue("selected", 0);
        if (!chosen_buffer) {
            gl->glGenBuffers(1, &chosen_buffer);
            gl->glGenTextures(1, &chosen_texture);
        }
        static const uint8_t none = 0;
        gl->glBindBuffer(GL_TEXTURE_BUFFER, chosen_buffer);
        gl->glBufferData(GL_TEXTURE_BUFFER, GLsizeiptr(std::max<size_t>(chosen.size(), 1)),
                         chosen.empty() ? &none : chosen.data(), GL_STREAM_DRAW);
        gl->glActiveTexture(GL_TEXTURE0);
        gl->glBindTexture(GL_TEXTURE_BUFFER, chosen_texture);
        gl->glTexBuffer(GL_TEXTURE_BUFFER, GL_R8UI, chosen_buffer);
    }
    States states_of(const Scene& scene, const SceneBody& b) const {
        States s;
        for (const Pick& pick : scene.selected) {
            if (pick.part != b.part) continue;
            if (pick.kind == Pick::Kind::Body) s.whole = 1;
            if (pick.body != b.body || b.support || b.veil || measured_map(b)) continue;
            if (pick.kind == Pick::Kind::Face) {
                choose(s.faces, b.shape->faces.size(), pick.index);
                // Its border too: a light and a dark line side by side are seen on every colour.
                for (size_t e = 0; e < b.shape->edges.size(); ++e)
                    if (b.shape->edges[e].face_a == int(pick.index) || b.shape->edges[e].face_b == int(pick.index))
                        choose(s.edges, b.shape->edges.size(), e);
            }
            if (pick.kind == Pick::Kind::Edge) choose(s.edges, b.shape->edges.size(), pick.index);
        }
        const Pick& h = scene.hovered;
        if (h && h.part == b.part && h.body == b.body && !b.support) {
            if (h.kind == Pick::Kind::Face) s.hovered_face = int(h.index);
            if (h.kind == Pick::Kind::Edge) s.hovered_edge = int(h.index);
            if (h.kind == Pick::Kind::Body && !s.whole) s.whole = 2;
        }
        return s;
    }

    void bind_body(const Scene& scene, const SceneBody& b, const QMatrix4x4& mvp, const QMatrix4x4& view, float alpha) {
        body.bind();
        QMatrix4x4 place = to_matrix(b.place);
        body.setUniformValue("mvp", mvp);
        body.setUniformValue("place", place);
        body.setUniformValue("turn", (view * place).normalMatrix());
        body.setUniformValue("section", section_of(scene));
        body.setUniformValue("colour", rgb(b.veil       ? theme::colour(Role::Accent)
                                           : b.stand_in ? theme::colour(Role::GlassBody)
                                                        : b.colour));
        body.setUniformValue("alpha", alpha);
        body.setUniformValue("glass", int(b.stand_in));
        body.setUniformValue("select_colour", rgb(theme::colour(Role::Selected)));
        body.setUniformValue("hover_colour", rgb(theme::colour(Role::Hover)));
        body.setUniformValue("map_scale", !b.map ? 0 : b.map->scale == SurfaceMap::Scale::Even ? 1 : 2);
        body.setUniformValue("map_high", b.map ? float(b.map->high) : 1.0f);
        body.setUniformValue("map_contour", b.map && b.map->contour > 0 ? float(b.map->contour) : 1.0f);
        body.setUniformValue("map_limit", b.map ? float(b.map->limit) : 90.0f);
        std::array<QVector3D, 5> scale;
        for (size_t i = 0; i < 5; ++i) scale[i] = rgb(theme::map_colour(double(i) / 4));
        body.setUniformValueArray("scale", scale.data(), 5);
        body.setUniformValue("hang_colour", rgb(theme::colour(Role::Hanging)));
        body.setUniformValue("hatch_colour", rgb(theme::colour(Role::HangingHatch)));
        States s = states_of(scene, b);
        bind_chosen(body, s.faces);
        body.setUniformValue("hovered", s.hovered_face);
        body.setUniformValue("whole", s.whole);
    }

    void draw_triangles(const GpuBody& b, bool light = false) {
        gl->glBindVertexArray(light ? b.light_vao : b.vao);
        gl->glDrawArrays(GL_TRIANGLES, 0, light ? b.light_count : b.vertex_count);
    }

    void draw_edges(const Scene& scene, const SceneBody& b, const GpuBody& gpu, const QMatrix4x4& mvp,
                    const QSize& pixels, double ratio) {
        if (!gpu.segment_count) return;
        States s = states_of(scene, b);
        edge.bind();
        edge.setUniformValue("mvp", mvp);
        edge.setUniformValue("place", to_matrix(b.place));
        edge.setUniformValue("viewport", QVector2D(float(pixels.width()), float(pixels.height())));
        edge.setUniformValue("section", section_of(scene));
        edge.setUniformValue("width", float((b.stand_in ? 1.2 : b.support ? 0.7 : 1.15) * ratio));
        edge.setUniformValue("bias", 0.00035f);
        QColor ink = theme::colour(b.stand_in ? Role::GlassEdge : Role::BodyEdge);
        float strength = b.support ? 0.45f : 1.0f;
        edge.setUniformValue("ink", QVector4D(rgb(ink), strength));
        edge.setUniformValue("dash", b.stand_in ? float(9 * ratio) : 0.0f);
        edge.setUniformValue("select_colour", rgb(theme::colour(Role::ChosenEdge)));
        bind_chosen(edge, s.edges);
        edge.setUniformValue("hovered", s.hovered_edge);
        gl->glBindVertexArray(gpu.edge_vao);
        gl->glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, gpu.segment_count);
    }

    /// Closed bodies' cut faces: back faces count up, front faces down; what stays is inside (architecture.md).
    void draw_cap(const Scene& scene, const SceneBody& b, const GpuBody& gpu, const QMatrix4x4& mvp,
                  const QMatrix4x4& view) {
        gl->glClear(GL_STENCIL_BUFFER_BIT);
        gl->glEnable(GL_STENCIL_TEST);
        gl->glColorMask(0, 0, 0, 0);
        gl->glDepthMask(GL_FALSE);
        gl->glDisable(GL_DEPTH_TEST);
        gl->glStencilFunc(GL_ALWAYS, 0, 255);
        gl->glStencilOpSeparate(GL_BACK, GL_KEEP, GL_KEEP, GL_INCR_WRAP);
        gl->glStencilOpSeparate(GL_FRONT, GL_KEEP, GL_KEEP, GL_DECR_WRAP);
        bind_body(scene, b, mvp, view, 1);
        draw_triangles(gpu);
        gl->glColorMask(1, 1, 1, 1);
        gl->glDepthMask(GL_TRUE);
        gl->glEnable(GL_DEPTH_TEST);
        gl->glStencilFunc(GL_NOTEQUAL, 0, 255);
        gl->glStencilOp(GL_KEEP, GL_KEEP, GL_KEEP);
        gl->glDisable(GL_CLIP_DISTANCE0);
        QVector4D s = section_of(scene);
        QVector3D n = s.toVector3D().normalized();
        Vec3 middle = bounding_box(b.shape->mesh).center();
        middle = b.place * middle;
        QVector3D m(float(middle.x()), float(middle.y()), float(middle.z()));
        QVector3D o = m - n * (QVector3D::dotProduct(n, m) + s.w() / s.toVector3D().length());
        QVector3D ux = QVector3D::crossProduct(n, std::fabs(n.z()) < 0.9f ? QVector3D(0, 0, 1) : QVector3D(1, 0, 0))
                           .normalized(),
                  uy = QVector3D::crossProduct(n, ux);
        cap.bind();
        cap.setUniformValue("mvp", mvp);
        cap.setUniformValue("origin", o);
        cap.setUniformValue("ux", ux * 1500);
        cap.setUniformValue("uy", uy * 1500);
        QColor base = b.stand_in ? theme::colour(Role::Glass) : b.colour;
        cap.setUniformValue("colour", rgb(base.lighter(112)));
        cap.setUniformValue("hatch", rgb(base.darker(150)));
        gl->glBindVertexArray(empty_vao);
        gl->glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
        gl->glDisable(GL_STENCIL_TEST);
        gl->glEnable(GL_CLIP_DISTANCE0);
    }

    QImage draw(const Scene& scene, const Camera& camera, const QSize& pixels, double ratio) {
        if (!target || target->size() != pixels) {
            QOpenGLFramebufferObjectFormat format;
            format.setAttachment(QOpenGLFramebufferObject::CombinedDepthStencil);
            target = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
        }
        target->bind();
        QMatrix4x4 view = camera.view(), mvp = camera.projection(pixels) * view;
        gl->glViewport(0, 0, pixels.width(), pixels.height());
        gl->glDepthMask(GL_TRUE);
        gl->glClearColor(1, 1, 1, 1);
        gl->glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT | GL_STENCIL_BUFFER_BIT);
        gl->glEnable(GL_DEPTH_TEST);
        std::vector<std::pair<const SceneBody*, GpuBody*>> solid, clear;
        for (const SceneBody& b : scene.bodies) {
            GpuBody& gpu = upload(b);
            (b.stand_in || b.see_through || b.veil ? clear : solid).push_back({&b, &gpu});
        }
        if (scene.section) gl->glEnable(GL_CLIP_DISTANCE0);
        gl->glDisable(GL_CULL_FACE);
        gl->glCullFace(GL_BACK);
        for (auto& [b, gpu] : solid) {
            if (scene.edges_only) break;
            bind_body(scene, *b, mvp, view, 1);
            if (gpu->closed && !scene.section) gl->glEnable(GL_CULL_FACE); // nobody sees the inside
            draw_triangles(*gpu, is_light(*b, *gpu));
            gl->glDisable(GL_CULL_FACE);
        }
        if (scene.section && !scene.edges_only)
            for (auto& [b, gpu] : solid) draw_cap(scene, *b, *gpu, mvp, view);
        // What the bodies hide of the bed and the ground is never shaded: software OpenGL counts every pixel.
        bool below = camera.pitch_deg < 0, cut = gl->glIsEnabled(GL_CLIP_DISTANCE0);
        gl->glDisable(GL_CLIP_DISTANCE0);
        if (!below) draw_mat(scene, mvp, camera.pixel_mm(pixels), false);
        draw_ground();
        if (cut) gl->glEnable(GL_CLIP_DISTANCE0);
        gl->glEnable(GL_BLEND);
        gl->glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        if (scene.edges || scene.edges_only)
            for (auto& [b, gpu] : solid)
                if (!is_light(*b, *gpu)) draw_edges(scene, *b, *gpu, mvp, pixels, ratio); // lines of another shape
        // Farther bodies first; within a body back faces, then front faces.
        std::sort(clear.begin(), clear.end(), [&](const auto& x, const auto& y) {
            double dx, dy;
            camera.project(x.first->place * bounding_box(x.first->shape->mesh).center(), pixels, &dx);
            camera.project(y.first->place * bounding_box(y.first->shape->mesh).center(), pixels, &dy);
            return dx > dy;
        });
        for (auto& [b, gpu] : clear) {
            gl->glDepthMask(GL_FALSE);
            gl->glEnable(GL_CULL_FACE);
            for (GLenum side : {GL_FRONT, GL_BACK}) {
                gl->glCullFace(side);
                bind_body(scene, *b, mvp, view, b->veil ? 0.16f : b->stand_in ? 0.5f : 0.30f);
                draw_triangles(*gpu, is_light(*b, *gpu));
            }
            gl->glDisable(GL_CULL_FACE);
            if (!b->veil && !is_light(*b, *gpu)) draw_edges(scene, *b, *gpu, mvp, pixels, ratio);
            gl->glDepthMask(GL_TRUE);
        }
        gl->glDisable(GL_BLEND);
        gl->glDisable(GL_CLIP_DISTANCE0);
        if (below) draw_mat(scene, mvp, camera.pixel_mm(pixels), true);
        gl->glBindVertexArray(0);
        gl->glUseProgram(0);
        QImage image = target->toImage().convertToFormat(QImage::Format_RGB32);
        target->release();
        forget_unused();
        return image;
    }
};

Renderer::Renderer() : engine_(std::make_unique<Engine>()) {}
Renderer::~Renderer() = default;
QString Renderer::problem() const {
    return engine_->problem;
}

void Renderer::set_moving(bool moving) {
    engine_->moving = moving;
}

QImage Renderer::render(const Scene& scene, const Camera& camera, const QSize& pixels, double pixel_ratio) {
    if (!engine_->gl || pixels.isEmpty() || !engine_->context.makeCurrent(&engine_->surface)) return {};
    QImage image = engine_->draw(scene, camera, pixels, pixel_ratio);
    engine_->context.doneCurrent();
    image.setDevicePixelRatio(pixel_ratio);
    return image;
}

} // namespace lp
