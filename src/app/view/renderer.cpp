#include "app/view/renderer.h"
#include "app/theme/theme.h"
#include "app/view/light_mesh.h"
#include "app/view/shaders.h"
#include <QOffscreenSurface>
#include <QOpenGLContext>
#include <QOpenGLFramebufferObject>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVersionFunctionsFactory>
#include <QThreadPool>
#include <chrono>
#include <future>
#include <unordered_map>

namespace lp {
namespace {

using GL = QOpenGLFunctions_3_3_Core;
using theme::Role;

QVector3D rgb(const QColor& c) {
    return {float(c.redF()), float(c.greenF()), float(c.blueF())};
}

QMatrix4x4 to_matrix(const Transform& t) {
    QMatrix4x4 m;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) m(r, c) = float(t.matrix()(r, c));
    return m;
}

} // namespace

/// Vertices and indices the driver holds.
struct GpuBuffers {
    GLuint vao = 0, vertices = 0, indices = 0, values = 0;
    GLsizei count = 0; ///< of indices
};
struct GpuBody {
    GpuBuffers triangles, edges;
    GpuBuffers corners;                    ///< in place of the triangles while a map is shown
    std::shared_ptr<const SurfaceMap> map; ///< whose values the corners have
    Vec3 middle = Vec3::Zero();            ///< of its box, in its own frame
    bool closed = false;                   ///< surely: exact bodies are
    bool used = true;
    // Made beside: the lighter version, and of a very large body the coarse one.
    std::future<LightShape> light_wanted;
    std::future<ShapeTriangles> coarse_wanted;
    GpuBuffers light, light_edges, coarse;
    const GpuBuffers *drawn = nullptr, *drawn_edges = nullptr; ///< in this picture
};

struct Renderer::Engine {
    std::shared_ptr<QOffscreenSurface> surface;
    QOpenGLContext context;
    GL* gl = nullptr;
    QString problem;
    QOpenGLShaderProgram plain_body, body_with_states, body_with_map, plain_edge, edge_with_states, cap, mat, ground;
    bool moving = false;
    QThreadPool beside; ///< makes lighter versions
    GLuint empty_vao = 0, chosen_buffer = 0, chosen_texture = 0;
    std::unique_ptr<QOpenGLFramebufferObject> target;
    std::unordered_map<const Tessellation*, GpuBody> bodies;
    std::unordered_map<const Tessellation*, std::shared_ptr<const Tessellation>>
        alive; // a freed address may come again

    explicit Engine(std::shared_ptr<QOffscreenSurface> on) : surface(std::move(on)) {
        beside.setMaxThreadCount(1);
        context.setFormat(surface->requestedFormat());
        if (!context.create()) {
            problem =
                "There is no OpenGL here, so the view cannot be drawn. Install a graphics driver with OpenGL 3.3.";
            return;
        }
        if (!context.makeCurrent(surface.get())) {
            problem = "OpenGL could not be started, so the view cannot be drawn.";
            return;
        }
        gl = QOpenGLVersionFunctionsFactory::get<GL>(&context);
        if (!gl || !gl->initializeOpenGLFunctions()) {
            problem = "The graphics driver offers less than OpenGL 3.3, so the view cannot be drawn.";
            gl = nullptr;
            return;
        }
        link(plain_body, shaders::body_vertex, shaders::body_fragment);
        link(body_with_states, shaders::body_vertex, shaders::body_fragment, "#define STATES\n");
        link(body_with_map, shaders::body_vertex, shaders::body_fragment, "#define STATES\n#define MAP\n");
        link(plain_edge, shaders::edge_vertex, shaders::edge_fragment);
        link(edge_with_states, shaders::edge_vertex, shaders::edge_fragment, "#define STATES\n");
        link(cap, shaders::plane_vertex, shaders::cap_fragment);
        link(mat, shaders::plane_vertex, shaders::mat_fragment);
        link(ground, shaders::ground_vertex, shaders::ground_fragment);
        gl->glGenVertexArrays(1, &empty_vao);
    }

    ~Engine() {
        beside.clear();
        if (!gl || !context.makeCurrent(surface.get())) return;
        for (auto& [shape, gpu] : bodies) release(gpu);
        gl->glDeleteVertexArrays(1, &empty_vao);
        if (chosen_buffer) gl->glDeleteBuffers(1, &chosen_buffer);
        if (chosen_texture) gl->glDeleteTextures(1, &chosen_texture);
        target.reset();
        for (auto* program :
             {&plain_body, &body_with_states, &body_with_map, &plain_edge, &edge_with_states, &cap, &mat, &ground})
            program->removeAllShaders();
        context.doneCurrent();
    }

    void link(QOpenGLShaderProgram& program, const char* vertex, const char* fragment, const char* switches = "") {
        const QByteArray head = QByteArray("#version 330 core\n") + switches;
        if (!program.addShaderFromSourceCode(QOpenGLShader::Vertex, head + vertex) ||
            !program.addShaderFromSourceCode(QOpenGLShader::Fragment, head + fragment) || !program.link())
            problem = "The view's drawing programs were refused by the graphics driver: " + program.log();
    }

    void release(GpuBody& b) {
        for (GpuBuffers* held : {&b.triangles, &b.edges, &b.corners, &b.light, &b.light_edges, &b.coarse}) {
            GLuint buffers[] = {held->vertices, held->indices, held->values};
            gl->glDeleteBuffers(3, buffers);
            gl->glDeleteVertexArrays(1, &held->vao);
        }
    }

    /// Sends vertices of two triples and a number, the attributes 0 to 2, and indices.
    template <class V> GpuBuffers sent(const std::vector<V>& vertices, const std::vector<uint32_t>& indices) {
        static_assert(sizeof(V) == 28);
        GpuBuffers b;
        b.count = GLsizei(indices.size());
        gl->glGenVertexArrays(1, &b.vao);
        gl->glBindVertexArray(b.vao);
        gl->glGenBuffers(1, &b.vertices);
        gl->glBindBuffer(GL_ARRAY_BUFFER, b.vertices);
        gl->glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(vertices.size() * sizeof(V)), vertices.data(), GL_STATIC_DRAW);
        gl->glGenBuffers(1, &b.indices);
        gl->glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, b.indices);
        gl->glBufferData(GL_ELEMENT_ARRAY_BUFFER, GLsizeiptr(indices.size() * sizeof(uint32_t)), indices.data(),
                         GL_STATIC_DRAW);
        gl->glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(V), nullptr);
        gl->glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, sizeof(V), reinterpret_cast<void*>(12));
        gl->glVertexAttribIPointer(2, 1, GL_UNSIGNED_INT, sizeof(V), reinterpret_cast<void*>(24));
        for (GLuint i = 0; i < 3; ++i) gl->glEnableVertexAttribArray(i);
        gl->glBindVertexArray(0);
        return b;
    }
    GpuBuffers sent(const ShapeTriangles& triangles) { return sent(triangles.vertices, triangles.indices); }

    /// The values of a map at the corners of the facets.
    void put_values(GpuBody& b, const Tessellation& shape, const std::shared_ptr<const SurfaceMap>& map) {
        if (!map || map == b.map || map->values->size() != shape.mesh.triangles.size() * 3) return;
        if (!b.corners.vao) b.corners = sent(shape_corners(shape));
        gl->glBindVertexArray(b.corners.vao);
        if (!b.corners.values) gl->glGenBuffers(1, &b.corners.values);
        gl->glBindBuffer(GL_ARRAY_BUFFER, b.corners.values);
        gl->glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(map->values->size() * sizeof(float)), map->values->data(),
                         GL_STATIC_DRAW);
        gl->glVertexAttribPointer(3, 1, GL_FLOAT, GL_FALSE, sizeof(float), nullptr);
        gl->glEnableVertexAttribArray(3);
        gl->glBindVertexArray(0);
        b.map = map;
    }

    /// What of a body is drawn at this scale: the lighter version where it is there and looks the same, the coarse one
    /// while the view moves (its edges would be those of another shape), the corners where a map is shown.
    void choose_detail(const SceneBody& body, GpuBody& b, double pixel_mm) {
        b.drawn = body.map && b.corners.vao ? &b.corners : &b.triangles;
        b.drawn_edges = &b.edges;
        if (body.map) return;
        if (const auto coarse = moving ? taken(b.coarse_wanted) : std::nullopt) b.coarse = sent(*coarse);
        const bool small = pixel_mm >= light_from_pixel_mm;
        if (const auto light = small ? taken(b.light_wanted) : std::nullopt) {
            b.light = sent(light->triangles);
            b.light_edges = sent(light->edges.vertices, light->edges.indices);
        }
        if (moving && b.coarse.vao) {
            b.drawn = &b.coarse;
            b.drawn_edges = nullptr;
        } else if (small && b.light.vao) {
            b.drawn = &b.light;
            b.drawn_edges = &b.light_edges;
        }
    }
    /// What was made, once it is there; after that it is not kept here.
    template <class T> static std::optional<T> taken(std::future<T>& wanted) {
        if (!wanted.valid() || wanted.wait_for(std::chrono::seconds(0)) != std::future_status::ready) return {};
        return std::exchange(wanted, {}).get();
    }
    /// Worked out one after the other, when nothing more urgent is to do.
    template <class Make> auto made_beside(Make make) {
        auto task = std::make_shared<std::packaged_task<std::invoke_result_t<Make>()>>(std::move(make));
        beside.start([task] { (*task)(); });
        return task->get_future();
    }

    GpuBody& upload(const SceneBody& body) {
        const std::shared_ptr<const Tessellation>& shape = body.shape;
        auto found = bodies.find(shape.get());
        if (found != bodies.end()) {
            found->second.used = true;
            put_values(found->second, *shape, body.map);
            return found->second;
        }
        GpuBody b;
        b.closed =
            std::any_of(shape->edges.begin(), shape->edges.end(), [](const EdgeInfo& e) { return e.number >= 0; });
        if (!shape->mesh.vertices.empty()) b.middle = bounding_box(shape->mesh).center();
        b.triangles = sent(shape_triangles(*shape));
        const ShapeEdges edges = shape_edges(*shape);
        b.edges = sent(edges.vertices, edges.indices);
        if (shape->mesh.triangles.size() > coarse_from_facets)
            b.coarse_wanted = made_beside([shape] { return coarse_triangles(*shape); });
        if (shape->mesh.triangles.size() > light_from_facets)
            b.light_wanted = made_beside([shape] { return light_shape(*shape); });
        put_values(b, *shape, body.map);
        alive[shape.get()] = shape;
        return bodies.emplace(shape.get(), std::move(b)).first->second;
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
                Vec3(scene.bed_centre.x(), scene.bed_centre.y(), scene.bed_z - 0.05) + middle_of_bed(bed, scene.bed_mm);
            mat.setUniformValue("origin", QVector3D(float(at.x()), float(at.y()), float(at.z())));
            gl->glDrawArrays(GL_TRIANGLE_STRIP, 0, 4);
        }
        gl->glDepthMask(GL_TRUE);
        gl->glDisable(GL_BLEND);
    }

    struct States {
        std::vector<uint8_t> faces, edges; ///< 1 for the chosen ones, faces + 2 (1 + mark); empty when none is
        int hovered_face = -1, hovered_edge = -1, whole = 0;
        bool any_of_body() const { return !faces.empty() || hovered_face >= 0 || whole; }
        bool any_of_edges() const { return !edges.empty() || hovered_edge >= 0; }
    };
    static void choose(std::vector<uint8_t>& chosen, size_t count, size_t index) {
        if (index >= count) return;
        chosen.resize(count);
        chosen[index] |= 1;
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
            if (pick.body != b.body || only_looked_at(b)) continue;
            if (pick.kind == Pick::Kind::Face) {
                choose(s.faces, b.shape->faces.size(), pick.index);
                // Its border too: a light and a dark line side by side are seen on every colour.
                for (size_t e = 0; e < b.shape->edges.size(); ++e)
                    if (b.shape->edges[e].face_a == int(pick.index) || b.shape->edges[e].face_b == int(pick.index))
                        choose(s.edges, b.shape->edges.size(), e);
            }
            if (pick.kind == Pick::Kind::Edge) choose(s.edges, b.shape->edges.size(), pick.index);
        }
        for (const MarkedFacePick& marked : scene.marked) {
            if (marked.part != b.part || marked.body != b.body || b.support || b.veil || b.ghost || measured_map(b))
                continue;
            if (marked.face >= b.shape->faces.size()) continue;
            s.faces.resize(b.shape->faces.size());
            s.faces[marked.face] |= uint8_t((1 + int(marked.mark)) << 1);
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
        const States s = states_of(scene, b);
        QOpenGLShaderProgram& body = b.map ? body_with_map : s.any_of_body() ? body_with_states : plain_body;
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
        if (b.map) bind_map(body, *b.map);
        if (&body == &plain_body) return;
        body.setUniformValue("select_colour", rgb(theme::colour(Role::Selected)));
        body.setUniformValue("hover_colour", rgb(theme::colour(Role::Hover)));
        bind_chosen(body, s.faces);
        body.setUniformValue("hovered", s.hovered_face);
        body.setUniformValue("whole", s.whole);
    }
    static void bind_map(QOpenGLShaderProgram& body, const SurfaceMap& map) {
        body.setUniformValue("map_scale", map.scale == SurfaceMap::Scale::Even ? 1 : 2);
        body.setUniformValue("map_high", float(map.high));
        body.setUniformValue("map_contour", map.contour > 0 ? float(map.contour) : 1.0f);
        body.setUniformValue("map_limit", float(map.limit));
        std::array<QVector3D, 5> scale;
        for (size_t i = 0; i < 5; ++i) scale[i] = rgb(theme::map_colour(double(i) / 4));
        body.setUniformValueArray("scale", scale.data(), 5);
        body.setUniformValue("hang_colour", rgb(theme::colour(Role::Hanging)));
        body.setUniformValue("hatch_colour", rgb(theme::colour(Role::HangingHatch)));
    }

    void draw(const GpuBuffers& b) {
        gl->glBindVertexArray(b.vao);
        gl->glDrawElements(GL_TRIANGLES, b.count, GL_UNSIGNED_INT, nullptr);
    }
    void draw_edges(const Scene& scene, const SceneBody& b, const GpuBody& gpu, const QMatrix4x4& mvp,
                    const QSize& pixels, double ratio) {
        if (!gpu.drawn_edges || !gpu.drawn_edges->count) return;
        const States s = states_of(scene, b);
        QOpenGLShaderProgram& edge = s.any_of_edges() ? edge_with_states : plain_edge;
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
        if (s.any_of_edges()) {
            edge.setUniformValue("select_colour", rgb(theme::colour(Role::ChosenEdge)));
            bind_chosen(edge, s.edges);
            edge.setUniformValue("hovered", s.hovered_edge);
        }
        draw(*gpu.drawn_edges);
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
        draw(*gpu.drawn);
        gl->glColorMask(1, 1, 1, 1);
        gl->glDepthMask(GL_TRUE);
        gl->glEnable(GL_DEPTH_TEST);
        gl->glStencilFunc(GL_NOTEQUAL, 0, 255);
        gl->glStencilOp(GL_KEEP, GL_KEEP, GL_KEEP);
        gl->glDisable(GL_CLIP_DISTANCE0);
        QVector4D s = section_of(scene);
        QVector3D n = s.toVector3D().normalized();
        const Vec3 middle = b.place * gpu.middle;
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
            choose_detail(b, gpu, camera.pixel_mm(pixels));
            (b.stand_in || b.see_through || b.veil || b.ghost ? clear : solid).push_back({&b, &gpu});
        }
        if (scene.section) gl->glEnable(GL_CLIP_DISTANCE0);
        gl->glDisable(GL_CULL_FACE);
        gl->glCullFace(GL_BACK);
        for (auto& [b, gpu] : solid) {
            if (scene.edges_only) break;
            bind_body(scene, *b, mvp, view, 1);
            if (b->brushed) { // it lies on the body it belongs to
                gl->glEnable(GL_POLYGON_OFFSET_FILL);
                gl->glPolygonOffset(-1, -2);
            }
            if (gpu->closed && !scene.section) gl->glEnable(GL_CULL_FACE); // nobody sees the inside
            draw(*gpu->drawn);
            gl->glDisable(GL_CULL_FACE);
            gl->glDisable(GL_POLYGON_OFFSET_FILL);
        }
        if (scene.section && !scene.edges_only)
            for (auto& [b, gpu] : solid)
                if (!b->brushed) draw_cap(scene, *b, *gpu, mvp, view);
        // What the bodies hide of the bed and the ground is never shaded: software OpenGL counts every pixel.
        bool below = camera.pitch_deg < 0, cut = gl->glIsEnabled(GL_CLIP_DISTANCE0);
        gl->glDisable(GL_CLIP_DISTANCE0);
        if (!below) draw_mat(scene, mvp, camera.pixel_mm(pixels), false);
        draw_ground();
        if (cut) gl->glEnable(GL_CLIP_DISTANCE0);
        gl->glEnable(GL_BLEND);
        gl->glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
        if (scene.edges || scene.edges_only)
            for (auto& [b, gpu] : solid) draw_edges(scene, *b, *gpu, mvp, pixels, ratio);
        // Farther bodies first; within a body back faces, then front faces.
        std::sort(clear.begin(), clear.end(), [&](const auto& x, const auto& y) {
            double dx, dy;
            camera.project(x.first->place * x.second->middle, pixels, &dx);
            camera.project(y.first->place * y.second->middle, pixels, &dy);
            return dx > dy;
        });
        for (auto& [b, gpu] : clear) {
            gl->glDepthMask(GL_FALSE);
            gl->glEnable(GL_CULL_FACE);
            for (GLenum side : {GL_FRONT, GL_BACK}) {
                gl->glCullFace(side);
                bind_body(scene, *b, mvp, view, b->veil || b->ghost ? 0.16f : b->stand_in ? 0.5f : 0.30f);
                draw(*gpu->drawn);
            }
            gl->glDisable(GL_CULL_FACE);
            if (!b->veil) draw_edges(scene, *b, *gpu, mvp, pixels, ratio);
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

std::shared_ptr<QOffscreenSurface> Renderer::make_surface() {
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setStencilBufferSize(8);
    auto surface = std::make_shared<QOffscreenSurface>();
    surface->setFormat(format);
    surface->create();
    return surface;
}

Renderer::Renderer(std::shared_ptr<QOffscreenSurface> surface)
    : engine_(std::make_unique<Engine>(std::move(surface))) {}
Renderer::~Renderer() = default;
QString Renderer::problem() const {
    return engine_->problem;
}

void Renderer::set_moving(bool moving) {
    engine_->moving = moving;
}

QImage Renderer::render(const Scene& scene, const Camera& camera, const QSize& pixels, double pixel_ratio) {
    if (!engine_->gl || pixels.isEmpty() || !engine_->context.makeCurrent(engine_->surface.get())) return {};
    QImage image = engine_->draw(scene, camera, pixels, pixel_ratio);
    engine_->context.doneCurrent();
    image.setDevicePixelRatio(pixel_ratio);
    return image;
}

} // namespace lp
