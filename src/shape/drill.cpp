#include "shape/drill.h"
#include "base/turn_between.h"
#include "shape/edges_match.h"
#include "shape/exact_box.h"
#include "shape/occt_convert.h"
#include "shape/replace_faces.h"
#include "shape/straight_tool.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Bnd_Box.hxx>
#include <ElSLib.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Iterator.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>

namespace lp {
namespace {

constexpr double clear_mm = 0.01; ///< nearer than this a boolean has to look
constexpr double flush_mm = 1e-7;
constexpr size_t most_tools = 20000, most_questions = 50'000'000; ///< about a second

class Driller {
  public:
    Driller(const Body& body, const Transform& frame, std::vector<StraightTool> tools, const Task& task)
        : body_(body), frame_(frame), tools_(std::move(tools)), task_(task) {}

    std::optional<Body> run() {
        if (tools_.size() > most_tools || !tools_apart()) return std::nullopt;
        flat_ = located(*body_.exact(), frame_.inverse());
        TopExp::MapShapes(flat_->shape, TopAbs_FACE, map_);
        for (int i = 1; i <= map_.Extent(); ++i) look_at(TopoDS::Face(map_(i)));
        size_t borders = walls_.size();
        for (const Wall& w : walls_) borders += w.rims.size();
        if (borders * tools_.size() > most_questions) return std::nullopt;
        double want = body_.mass().volume_mm3;
        for (const StraightTool& tool : tools_) {
            if (task_.stopped()) return std::nullopt;
            auto way = way_through(tool);
            if (!way) return std::nullopt;
            for (const Stretch& s : *way) {
                bore(tool, s);
                want -= tool.section_mm2() * (s.high - s.low);
            }
        }
        ExactShape made = rebuilt();
        if (made.shape.IsNull() || !edges_match(made.shape)) return std::nullopt;
        auto result = Body::from_exact(located(made, frame_), body_.box());
        if (!result || result->pieces() != body_.pieces()) return std::nullopt;
        if (std::fabs(result->mass().volume_mm3 - want) > 1e-6 * std::fabs(body_.mass().volume_mm3))
            return std::nullopt;
        return *result;
    }

  private:
    /// An edge of a square face, seen along the tools.
    struct Rim {
        bool circle = false;
        Vec2 centre = Vec2::Zero();
        double radius = 0;
        std::vector<Vec2> points;
        double sag = 0; ///< how far the edge may stray from them
    };
    static Rim rim_of(const TopoDS_Edge& edge) {
        BRepAdaptor_Curve curve(edge);
        Rim rim;
        if (curve.GetType() == GeomAbs_Circle) {
            rim.circle = true;
            rim.centre = to_vec(curve.Circle().Location()).head<2>();
            rim.radius = curve.Circle().Radius();
        }
        bool straight = curve.GetType() == GeomAbs_Line;
        int steps = straight ? 1 : 64;
        double a = curve.FirstParameter(), b = curve.LastParameter();
        for (int k = 0; k <= steps; ++k) {
            rim.points.push_back(to_vec(curve.Value(a + (b - a) * k / steps)).head<2>());
            if (k > 0 && !straight)
                rim.sag = std::max(rim.sag, 0.05 * (rim.points[size_t(k)] - rim.points[size_t(k) - 1]).norm());
        }
        return rim;
    }

    /// A face of the body as it is asked about again and again.
    struct Wall {
        TopoDS_Face face;
        BRepAdaptor_Surface surface;
        Box3 box;
        bool square = false; ///< flat and square to the tools
        bool up = false;     ///< looking along them
        double z = 0;
        std::shared_ptr<BRepTopAdaptor_FClass2d> inside;
        std::vector<Rim> rims;
        std::vector<TopoDS_Wire> openings; ///< to be added
    };
    /// A piece of a tool with material round it, from one height to another, open through a wall or closed by an end.
    struct Stretch {
        double low = 0, high = 0;
        int low_wall = -1, high_wall = -1;
    };

    bool tools_apart() const {
        for (size_t i = 0; i < tools_.size(); ++i)
            for (size_t j = i + 1; j < tools_.size(); ++j) {
                const StraightTool &a = tools_[i], &b = tools_[j];
                if (a.low > b.high + clear_mm || b.low > a.high + clear_mm) continue;
                bool by_reach = (a.centre - b.centre).norm() > a.reach + b.reach + clear_mm;
                if (!by_reach && !a.box_apart(b.box, clear_mm)) return false;
            }
        return true;
    }

    void look_at(const TopoDS_Face& face) {
        Wall w{face, BRepAdaptor_Surface(face, false), {}, false, false, 0, nullptr, {}, {}};
        Bnd_Box bounds;
        BRepBndLib::Add(face, bounds, false);
        if (!bounds.IsVoid()) {
            Vec3 low, high;
            bounds.Get(low.x(), low.y(), low.z(), high.x(), high.y(), high.z());
            w.box = Box3(low, high);
            // The kernel's box of a piece of a ring or free surface is that of much more of it.
            if (w.surface.GetType() > GeomAbs_Cylinder)
                if (Box3 tight = w.box.intersection(sampled_box(face)); !tight.isEmpty()) w.box = tight;
        }
        if (w.surface.GetType() == GeomAbs_Plane) {
            gp_Pln plane = w.surface.Plane();
            gp_Dir normal = plane.Axis().Direction();
            if (!plane.Direct()) normal.Reverse();
            double along = face.Orientation() == TopAbs_REVERSED ? -normal.Z() : normal.Z();
            w.square = std::fabs(along) > 1 - 1e-12;
            w.up = along > 0;
            w.z = plane.Location().Z();
            if (w.square)
                for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next())
                    w.rims.push_back(rim_of(TopoDS::Edge(it.Current())));
        }
        walls_.push_back(std::move(w));
    }

    /// Whether the wall stays out of the tool's way; for faces that are not square to it.
    static bool passes_by(const Wall& w, const StraightTool& tool) {
        if (w.box.isEmpty() || w.box.min().z() > tool.high + clear_mm || w.box.max().z() < tool.low - clear_mm)
            return true;
        if (tool.box_apart(Box2(w.box.min().head<2>(), w.box.max().head<2>()), clear_mm)) return true;
        if (w.surface.GetType() == GeomAbs_Plane) {
            gp_Pln plane = w.surface.Plane();
            Vec3 normal = to_direction(plane.Axis().Direction()), at = to_vec(plane.Location());
            return std::fabs(normal.z()) < 1e-12 &&
                   std::fabs(normal.head<2>().dot(tool.centre - at.head<2>())) > tool.reach + clear_mm;
        }
        if (w.surface.GetType() != GeomAbs_Cylinder) return false;
        gp_Cylinder round = w.surface.Cylinder();
        if (std::fabs(to_direction(round.Axis().Direction()).z()) < 1 - 1e-12) return false;
        double d = (to_vec(round.Location()).head<2>() - tool.centre).norm();
        return std::fabs(d - round.Radius()) > tool.reach + clear_mm;
    }

    enum class Cover { All, None, Unsure };
    /// How much of the tool's section a square face holds.
    static Cover covers(Wall& w, const StraightTool& tool) {
        if (tool.box_apart(Box2(w.box.min().head<2>(), w.box.max().head<2>()), clear_mm)) return Cover::None;
        for (const Rim& rim : w.rims) {
            if (rim.circle && std::fabs((rim.centre - tool.centre).norm() - rim.radius) > tool.reach + clear_mm)
                continue;
            for (size_t k = 1; k < rim.points.size(); ++k)
                if (!tool.stays_clear_of(rim.points[k - 1], rim.points[k], clear_mm + rim.sag)) return Cover::Unsure;
        }
        if (!w.inside) w.inside = std::make_shared<BRepTopAdaptor_FClass2d>(w.face, 1e-7);
        double u, v;
        ElSLib::Parameters(w.surface.Plane(), gp_Pnt(tool.inside.x(), tool.inside.y(), w.z), u, v);
        TopAbs_State state = w.inside->Perform(gp_Pnt2d(u, v));
        return state == TopAbs_IN ? Cover::All : state == TopAbs_OUT ? Cover::None : Cover::Unsure;
    }

    std::optional<std::vector<Stretch>> way_through(const StraightTool& tool) {
        std::vector<int> met;
        for (size_t i = 0; i < walls_.size(); ++i) {
            Wall& w = walls_[i];
            if (!w.square) {
                if (!passes_by(w, tool)) return std::nullopt;
                continue;
            }
            if (w.z > tool.high + clear_mm || w.z < tool.low - clear_mm) continue;
            Cover cover = covers(w, tool);
            if (cover == Cover::None) continue;
            // Its ends lie on a face, or clear of it; what stands on a face from outside cuts nothing there.
            bool near_end = false;
            for (double end : {tool.low, tool.high})
                near_end = near_end || (std::fabs(w.z - end) < clear_mm && std::fabs(w.z - end) > flush_mm);
            bool stands_on =
                (std::fabs(w.z - tool.low) <= flush_mm && w.up) || (std::fabs(w.z - tool.high) <= flush_mm && !w.up);
            if (cover == Cover::Unsure || near_end || stands_on) return std::nullopt;
            met.push_back(int(i));
        }
        if (met.empty()) return std::nullopt;
        std::sort(met.begin(), met.end(), [&](int a, int b) { return walls_[size_t(a)].z < walls_[size_t(b)].z; });
        std::vector<Stretch> way;
        // Upward: a face that looks down begins material, one that looks up ends it.
        std::optional<Stretch> open;
        if (walls_[size_t(met[0])].up) open = Stretch{tool.low, 0, -1, -1};
        for (int i : met) {
            const Wall& w = walls_[size_t(i)];
            if (w.up != open.has_value()) return std::nullopt;
            if (open) {
                open->high = w.z;
                open->high_wall = i;
                way.push_back(*open);
                open.reset();
            } else {
                open = Stretch{w.z, 0, i, -1};
            }
        }
        if (open) {
            open->high = tool.high;
            way.push_back(*open);
        }
        for (const Stretch& s : way)
            if (s.high - s.low < clear_mm) return std::nullopt;
        return way;
    }

    /// The walls of one stretch, with their openings in the faces at its ends.
    void bore(const StraightTool& tool, const Stretch& s) {
        BoredStretch made = tool.bored(s.low, s.high, s.low_wall < 0, s.high_wall < 0);
        for (auto& [face, tags] : made.faces) {
            if (!tags.empty()) tags_.Bind(face, tags);
            // All that is new belongs to the shell of the face it opens.
            fresh_.emplace_back(s.low_wall >= 0 ? s.low_wall : s.high_wall, face);
        }
        auto open = [&](int wall, const TopoDS_Wire& rim) {
            if (wall < 0) return;
            Wall& w = walls_[size_t(wall)];
            // The rim runs the other way round in the face than in the bore's wall.
            TopExp_Explorer edge(rim, TopAbs_EDGE);
            TopAbs_Orientation in_wall = TopAbs_FORWARD, in_rim = edge.Current().Orientation();
            for (const auto& [face, tags] : made.faces)
                for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next())
                    if (it.Current().IsSame(edge.Current())) in_wall = it.Current().Orientation();
            bool same = TopAbs::Compose(in_rim, w.face.Orientation()) == in_wall;
            w.openings.push_back(same ? TopoDS::Wire(rim.Reversed()) : rim);
        };
        open(s.low_wall, made.low_rim);
        open(s.high_wall, made.high_rim);
        if (s.low_wall >= 0 && s.high_wall >= 0) joined_.emplace_back(s.low_wall, s.high_wall);
        births_.insert(tool.births.begin(), tool.births.end());
    }

    /// The body with opened faces in place of the old ones and the new faces in their shells.
    ExactShape rebuilt() {
        ExactShape result;
        result.births = flat_->births;
        result.births.insert(births_.begin(), births_.end());
        result.tags = tags_;
        std::vector<std::vector<TopoDS_Shape>> now(walls_.size());
        for (size_t i = 0; i < walls_.size(); ++i) {
            const Wall& w = walls_[i];
            TopoDS_Face face = w.openings.empty() ? w.face : opened_face(w.face, w.openings);
            if (const TagSet* tags = flat_->tags.Seek(w.face)) result.tags.Bind(face, *tags);
            now[i] = {face};
        }
        for (const auto& [wall, face] : fresh_) now[size_t(wall)].push_back(face);
        // A bore from the outer shell into a cavity makes one shell of two: not done here.
        std::vector<int> shell_of = shells_of_walls();
        for (const auto& [a, b] : joined_)
            if (shell_of[size_t(a)] != shell_of[size_t(b)]) return {};
        result.shape = with_faces_replaced(
            flat_->shape, [&](const TopoDS_Shape& face) { return now[size_t(map_.FindIndex(face) - 1)]; });
        return result;
    }

    std::vector<int> shells_of_walls() const {
        std::vector<int> of(walls_.size(), -1);
        int shells = 0;
        for (TopExp_Explorer shell(flat_->shape, TopAbs_SHELL); shell.More(); shell.Next(), ++shells)
            for (TopoDS_Iterator face(shell.Current()); face.More(); face.Next())
                of[size_t(map_.FindIndex(face.Value()) - 1)] = shells;
        return of;
    }

    const Body& body_;
    Transform frame_;
    std::vector<StraightTool> tools_;
    const Task& task_;
    std::shared_ptr<ExactShape> flat_;
    TopTools_IndexedMapOfShape map_;
    std::vector<Wall> walls_;
    std::vector<std::pair<int, TopoDS_Shape>> fresh_;
    std::vector<std::pair<int, int>> joined_;
    FaceTags tags_;
    BirthFrames births_;
};

} // namespace

std::optional<Body> drill_directly(const Body& body, const std::vector<Body>& tools, const Task& task) {
    if (!body.is_exact() || tools.empty()) return std::nullopt;
    auto result = guard_kernel("drilling", [&]() -> Expected<std::optional<Body>> {
        // A block is a prism along each of its axes: the first along which all of it works is taken.
        for (const Vec3& axis : straight_axes(tools[0])) {
            Transform frame = frame_along(axis);
            std::vector<StraightTool> straight;
            for (const Body& tool : tools) {
                auto one = straight_tool(tool, frame);
                if (!one) break;
                straight.push_back(std::move(*one));
            }
            if (straight.size() < tools.size()) continue;
            if (auto made = Driller(body, frame, std::move(straight), task).run()) return made;
        }
        return std::nullopt;
    });
    return result ? *result : std::nullopt;
}

} // namespace lp
