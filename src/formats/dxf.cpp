#include "base/quantity.h"
#include "base/tolerance.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "formats/nurbs_curve.h"
#include "outline/chains.h"
#include <cmath>
#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <map>
#include <set>
#include <sstream>

namespace lp {
namespace {

constexpr size_t most_bytes = 64u << 20, most_curves = 1'000'000;
constexpr int deepest_blocks = 16;
/// Ends of separate lines and arcs this near belong together: half of what a plotter ever resolved, and noted when
/// closed.
constexpr double joins_mm = 0.01;

struct UnitOfFile {
    const char* name;
    double mm;
};
/// $INSUNITS (the DXF reference, header section; from memory).
const std::map<int, UnitOfFile> units{
    {1, {"in", 25.4}},           {2, {"ft", 304.8}},   {4, {"mm", 1}},      {5, {"cm", 10}},         {6, {"m", 1000}},
    {8, {"microinch", 25.4e-6}}, {9, {"mil", 0.0254}}, {10, {"yd", 914.4}}, {13, {"micron", 0.001}}, {14, {"dm", 100}}};

/// Checks what the library would trust: pairs of lines, counts no larger than the file, a proper end.
std::optional<Problem> check_groups(const std::string& bytes) {
    auto refuse = [](const std::string& sentence, const std::string& advice) {
        return Problem{ProblemCode::File, sentence, advice};
    };
    if (bytes.size() > most_bytes) return refuse("The DXF file is larger than 64 MB.", "Bring in a simpler drawing.");
    if (bytes.substr(0, 1000).find('\0') != std::string::npos) // the binary form has noughts from the start
        return refuse("This is a binary DXF file.", "Save it as an ASCII DXF.");
    std::istringstream stream(bytes);
    std::string code_line, value;
    size_t line = 0;
    bool ended = false, any_section = false;
    while (std::getline(stream, code_line)) {
        ++line;
        size_t from = code_line.find_first_not_of(" \t\r"), to = code_line.find_last_not_of(" \t\r");
        if (from == std::string::npos) {
            if (stream.peek() == EOF) break;
            return refuse("Line " + std::to_string(line) + " of the DXF file is empty where a group code belongs.",
                          "It may be damaged; save it again.");
        }
        char* end = nullptr;
        std::string text = code_line.substr(from, to - from + 1);
        long code = std::strtol(text.c_str(), &end, 10);
        if (*end || code < -5 || code > 1071)
            return refuse("Line " + std::to_string(line) + " of the DXF file is no group code.",
                          "This is no ASCII DXF file, or it is damaged.");
        if (!std::getline(stream, value)) break;
        ++line;
        while (!value.empty() && std::isspace(static_cast<unsigned char>(value.back()))) value.pop_back();
        size_t start = value.find_first_not_of(" \t");
        if (start != std::string::npos) value.erase(0, start);
        if (value.size() > 4096)
            return refuse("Line " + std::to_string(line) + " of the DXF file is longer than 4096 characters.",
                          "It may be damaged; save it again.");
        if (code == 0 && value == "SECTION") any_section = true;
        if (code == 0 && value == "EOF") {
            ended = true;
            break;
        }
        if (code >= 10 && code <= 59) {
            double number = std::strtod(value.c_str(), nullptr);
            if (!std::isfinite(number))
                return refuse("Line " + std::to_string(line) + " of the DXF file is no finite number.",
                              "It is damaged; save it again.");
        }
        if ((code >= 60 && code <= 99) || (code >= 170 && code <= 179)) {
            double count = std::strtod(value.c_str(), nullptr);
            if ((code == 90 || code == 91 || code == 93 || (code >= 72 && code <= 79)) &&
                (count > double(bytes.size()) / 4 || count < -100000))
                return refuse("Line " + std::to_string(line) + " of the DXF file counts " + value +
                                  " things, more than the file can hold.",
                              "It is damaged; save it again.");
        }
    }
    if (!any_section) return refuse("This is no DXF file: it has no section.", "Choose an SVG or DXF file.");
    if (!ended) return refuse("The DXF file is cut off: its end is missing.", "Fetch or save it again.");
    return std::nullopt;
}

struct Insert {
    std::string block;
    Eigen::Affine2d place;
};
struct Block {
    Vec2 base = Vec2::Zero();
    std::vector<Curve> curves;
    std::vector<bool> whole; ///< a contour by itself (polyline): curves of one contour share a number
    std::vector<int> contour;
    std::vector<bool> contour_closed;
    std::vector<Insert> inserts;
};

class Collector : public DL_CreationAdapter {
  public:
    std::map<std::string, Block> blocks;
    Block model;
    int unit = 0, measurement = 1;
    std::map<std::string, size_t> unusable;
    size_t count = 0, hidden = 0;

    void setVariableInt(const std::string& key, int value, int) override {
        if (key == "$INSUNITS") unit = value;
        if (key == "$MEASUREMENT") measurement = value;
    }
    void addLayer(const DL_LayerData& data) override {
        if (data.off || (data.flags & 1)) off_.insert(data.name);
    }
    void addBlock(const DL_BlockData& data) override {
        Block& b = blocks[data.name];
        b.base = {data.bpx, data.bpy};
        into_ = &b;
    }
    void endBlock() override { into_ = &model; }
    void addLine(const DL_LineData& d) override { add(Curve::line({d.x1, d.y1}, {d.x2, d.y2}), false); }
    void addArc(const DL_ArcData& d) override {
        double from = radians(d.angle1), to = radians(d.angle2),
               sweep = std::remainder(to - from, 2 * std::numbers::pi);
        if (sweep <= 1e-12) sweep += 2 * std::numbers::pi;
        if (d.radius > 0) add(Curve::arc({d.cx, d.cy}, d.radius, from, sweep), true);
    }
    void addCircle(const DL_CircleData& d) override {
        if (d.radius > 0) add(Curve::circle({d.cx, d.cy}, d.radius), true);
    }
    void addEllipse(const DL_EllipseData& d) override {
        double sweep = d.angle2 - d.angle1;
        if (sweep <= 1e-12) sweep += 2 * std::numbers::pi;
        Vec2 major(d.mx, d.my);
        if (major.norm() > 0 && d.ratio > 0)
            add(Curve::ellipse({d.cx, d.cy}, major, major.norm() * d.ratio, d.angle1, sweep), false);
    }
    void addPolyline(const DL_PolylineData& d) override {
        finish();
        if (d.flags & (8 | 16 | 64)) return note("three-dimensional polyline or mesh");
        polyline_ = true;
        closed_ = d.flags & 1;
    }
    void addVertex(const DL_VertexData& d) override {
        if (polyline_) vertices_.push_back({Vec2(d.x, d.y), d.bulge});
    }
    void addSpline(const DL_SplineData& d) override {
        finish();
        spline_ = true;
        degree_ = int(d.degree);
        closed_ = d.flags & 1;
    }
    void addControlPoint(const DL_ControlPointData& d) override {
        controls_.push_back({d.x, d.y});
        weights_.push_back(d.w > 0 ? d.w : 1);
    }
    void addFitPoint(const DL_FitPointData& d) override { fits_.push_back({d.x, d.y}); }
    void addKnot(const DL_KnotData& d) override { knots_.push_back(d.k); }
    void endEntity() override { finish(); }
    void endSequence() override { finish(); }
    void endSection() override { finish(); }
    void addInsert(const DL_InsertData& d) override {
        if (!shown()) return;
        for (int c = 0; c < std::clamp(d.cols, 1, 1000); ++c)
            for (int r = 0; r < std::clamp(d.rows, 1, 1000); ++r) {
                Eigen::Affine2d place = mirror();
                place.translate(Vec2(d.ipx, d.ipy));
                place.rotate(radians(d.angle));
                place.translate(Vec2(c * d.colSp, r * d.rowSp));
                place.scale(Vec2(d.sx, d.sy));
                if (++count > most_curves) return;
                into_->inserts.push_back({d.name, place});
            }
    }
    void addText(const DL_TextData&) override { note("text"); }
    void addMText(const DL_MTextData&) override { note("text"); }
    void addHatch(const DL_HatchData&) override { note("hatch"); }
    void addSolid(const DL_SolidData&) override { note("solid"); }
    void addTrace(const DL_TraceData&) override { note("trace"); }
    void add3dFace(const DL_3dFaceData&) override { note("three-dimensional face"); }
    void addXLine(const DL_XLineData&) override { note("endless line"); }
    void addRay(const DL_RayData&) override { note("endless line"); }
    void addImage(const DL_ImageData&) override { note("image"); }
    void addLeader(const DL_LeaderData&) override { note("leader"); }
    void addDimAlign(const DL_DimensionData&, const DL_DimAlignedData&) override { note("dimension"); }
    void addDimLinear(const DL_DimensionData&, const DL_DimLinearData&) override { note("dimension"); }
    void addDimRadial(const DL_DimensionData&, const DL_DimRadialData&) override { note("dimension"); }
    void addDimDiametric(const DL_DimensionData&, const DL_DimDiametricData&) override { note("dimension"); }

    void finish() {
        if (polyline_ && !vertices_.empty()) {
            std::vector<Curve> curves;
            size_t n = vertices_.size();
            for (size_t i = 0; i + (closed_ ? 0 : 1) < n; ++i) {
                Vec2 a = vertices_[i].first, b = vertices_[(i + 1) % n].first;
                double bulge = vertices_[i].second; // tangent of a quarter of the arc's angle
                if ((a - b).norm() < 1e-12) continue;
                if (std::fabs(bulge) < 1e-12) {
                    curves.push_back(Curve::line(a, b));
                } else {
                    Vec2 chord = b - a, normal(chord.y(), -chord.x());
                    curves.push_back(Curve::arc_through(a, (a + b) / 2 + normal * bulge / 2, b));
                }
            }
            contour(std::move(curves), closed_);
        }
        if (spline_) {
            if (controls_.size() >= 2 && knots_.size() == controls_.size() + size_t(degree_) + 1) {
                if (auto curve = nurbs_curve(degree_, knots_, controls_, weights_))
                    contour({*curve}, (curve->first() - curve->last()).norm() <= joins_mm);
                else
                    note("spline with wrong knots");
            } else if (fits_.size() >= 2) {
                bool loop = closed_ && fits_.size() > 2 && (fits_.front() - fits_.back()).norm() > 1e-9;
                contour({Curve::spline(fits_, loop)}, loop);
            } else {
                note("spline with wrong knots");
            }
        }
        polyline_ = spline_ = false;
        vertices_.clear(), controls_.clear(), weights_.clear(), fits_.clear(), knots_.clear();
    }

  private:
    bool shown() {
        if (!off_.count(getAttributes().getLayer())) return true;
        ++hidden;
        return false;
    }
    void note(const std::string& what) { ++unusable[what]; }
    /// Entities drawn from behind (extrusion along -z) are mirrored in x.
    Eigen::Affine2d mirror() {
        Eigen::Affine2d m = Eigen::Affine2d::Identity();
        double direction[3] = {0, 0, 1};
        if (getExtrusion()) getExtrusion()->getDirection(direction);
        if (direction[2] < 0 && std::fabs(direction[0]) < 1e-6 && std::fabs(direction[1]) < 1e-6) m.scale(Vec2(-1, 1));
        return m;
    }
    void add(const Curve& c, bool in_own_frame) {
        if (!shown() || ++count > most_curves) return;
        into_->curves.push_back(in_own_frame ? c.mapped(mirror()) : c);
        into_->contour.push_back(-1);
    }
    void contour(std::vector<Curve> curves, bool closed) {
        if (curves.empty() || !shown()) return;
        Eigen::Affine2d m = polyline_ ? mirror() : Eigen::Affine2d::Identity();
        int number = int(into_->contour_closed.size());
        into_->contour_closed.push_back(closed);
        for (const Curve& c : curves) {
            if (++count > most_curves) return;
            into_->curves.push_back(c.mapped(m));
            into_->contour.push_back(number);
        }
    }

    Block* into_ = &model;
    std::set<std::string> off_;
    bool polyline_ = false, spline_ = false, closed_ = false;
    int degree_ = 3;
    std::vector<std::pair<Vec2, double>> vertices_;
    std::vector<Vec2> controls_, fits_;
    std::vector<double> weights_, knots_;
};

/// Blocks put in place, separate lines joined to contours.
class Flattener {
  public:
    explicit Flattener(Collector& collector) : c_(collector) {}

    std::optional<Problem> place(const Block& block, const Eigen::Affine2d& map, int depth) {
        if (depth > deepest_blocks)
            return Problem{ProblemCode::File,
                           "A block of the DXF file holds itself, or blocks are nested deeper than 16 levels.",
                           "Dissolve it in the program it comes from."};
        std::map<int, FlatPath> contours;
        for (size_t i = 0; i < block.curves.size(); ++i) {
            Curve curve = block.curves[i].mapped(map);
            if (!curve.finite() || curve.box().min().cwiseAbs().maxCoeff() > tolerance::largest_mm ||
                curve.box().max().cwiseAbs().maxCoeff() > tolerance::largest_mm) {
                ++far_;
                continue;
            }
            if (curve.length() < 1e-9) continue;
            if (++total_ > most_curves)
                return Problem{ProblemCode::File, "The DXF file has more than a million curves.",
                               "Bring in a simpler drawing."};
            if (block.contour[i] < 0) {
                SourcedCurve s;
                s.curve = curve;
                loose_.push_back(std::move(s));
            } else {
                FlatPath& path = contours[block.contour[i]];
                if (path.contours.empty())
                    path.contours.emplace_back(), path.closed.push_back(block.contour_closed[size_t(block.contour[i])]);
                path.contours[0].push_back(curve);
            }
        }
        for (auto& [number, path] : contours) {
            if (!path.closed[0]) { // open ones may be joined by others
                bool ends_meet = (path.contours[0].front().first() - path.contours[0].back().last()).norm() <= joins_mm;
                if (!ends_meet) {
                    for (const Curve& c : path.contours[0]) {
                        SourcedCurve s;
                        s.curve = c;
                        loose_.push_back(s);
                    }
                    continue;
                }
                path.closed[0] = true;
            }
            paths_.push_back(std::move(path));
        }
        for (const Insert& insert : block.inserts) {
            auto found = c_.blocks.find(insert.block);
            if (found == c_.blocks.end()) {
                ++c_.unusable["use of a block that is not there"];
                continue;
            }
            Eigen::Affine2d inner = map * insert.place;
            inner.translate(-found->second.base);
            if (auto wrong = place(found->second, inner, depth + 1)) return wrong;
        }
        return std::nullopt;
    }

    std::vector<FlatPath> take() {
        for (Chain& chain : chains_of(loose_, joins_mm)) {
            FlatPath path;
            path.contours = {chain.plain()};
            path.closed = {chain.closed};
            paths_.push_back(std::move(path));
        }
        return std::move(paths_);
    }
    size_t far() const { return far_; }

  private:
    Collector& c_;
    std::vector<SourcedCurve> loose_;
    std::vector<FlatPath> paths_;
    size_t far_ = 0, total_ = 0;
};

} // namespace

Expected<FlatPaths> read_dxf(const std::string& bytes) {
    if (auto wrong = check_groups(bytes)) return pass_on(*wrong);
    Collector collector;
    try {
        std::istringstream stream(bytes);
        DL_Dxf reader;
        if (!reader.in(stream, &collector))
            return problem(ProblemCode::File, "The DXF file cannot be read.", "Save it again as an ASCII DXF.");
        collector.finish();
    } catch (const std::exception& error) {
        return problem(ProblemCode::File, std::string("The DXF file cannot be read: ") + error.what() + ".",
                       "Save it again as an ASCII DXF.");
    }
    if (collector.count > most_curves)
        return problem(ProblemCode::File, "The DXF file has more than a million curves.",
                       "Bring in a simpler drawing.");
    FlatPaths result;
    result.format = "dxf";
    auto found = units.find(collector.unit);
    UnitOfFile unit = found != units.end() ? found->second : UnitOfFile{"mm", 1};
    result.unit = unit.name;
    auto note = [&](const std::string& kind, size_t count, const std::string& says) {
        result.findings.push_back({kind, count, {}, says});
    };
    if (found == units.end())
        note("unit", 1,
             collector.measurement == 0 ? "The file does not say its unit, and was drawn in inches or feet perhaps: "
                                          "taken as mm. Scale by 25.4 if it is too small."
                                        : "The file does not say its unit: taken as mm.");
    Eigen::Affine2d scale = Eigen::Affine2d::Identity();
    scale.scale(unit.mm);
    Flattener flattener(collector);
    if (auto wrong = flattener.place(collector.model, scale, 0)) return pass_on(*wrong);
    result.paths = flattener.take();
    for (const auto& [what, count] : collector.unusable)
        note(what == "text" || what == "hatch" || what == "image" ? what : "unused", count,
             std::to_string(count) + " x " + what + " in the file cannot be drawn and is left out.");
    if (collector.hidden)
        note("layer", collector.hidden,
             std::to_string(collector.hidden) + " things on switched-off layers are left out.");
    if (flattener.far())
        note("range", flattener.far(), std::to_string(flattener.far()) + " curves beyond 100 m are left out.");
    for (const FlatPath& path : result.paths)
        if (!path.closed[0]) {
            Vec2 a = path.contours[0].front().first(), b = path.contours[0].back().last();
            auto known = std::find_if(result.findings.begin(), result.findings.end(),
                                      [](const FlatFinding& f) { return f.kind == "open_path"; });
            if (known != result.findings.end())
                ++known->count;
            else
                result.findings.push_back({"open_path", 1, a,
                                           "A path is open: its ends are " +
                                               format_quantity((a - b).norm(), QuantityKind::Length) + " apart."});
        }
    return result;
}

FileFormat dxf_format() {
    FileFormat format{.id = "dxf", .title = "DXF", .endings = {"dxf"}, .content = FileFormat::Content::Flat};
    format.looks_like = [](std::string_view bytes) { return bytes.find("SECTION") != std::string_view::npos; };
    format.read_flat = read_dxf;
    return format;
}

} // namespace lp
