#include "outline/outline_shape.h"
#include "base/hash.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/chains.h"
#include "outline/formula_curve.h"
#include "outline/offset.h"
#include "outline/picture_trace.h"
#include "outline/text_curves.h"
#include <algorithm>

namespace lp {
namespace {

class OutlineMaker {
  public:
    OutlineMaker(const Drawing& drawing, const OutlineInputs& inputs) : source_(drawing), in_(inputs) {}

    Expected<OutlineShape> run() {
        Drawing drawing = source_;
        if (auto wrong = follow_edges(drawing)) return pass_on(*wrong);
        auto values = dimension_values(drawing, in_.parameters);
        if (!values) return pass_on(values);
        auto solved = solve(drawing, *values);
        if (!solved) return pass_on(solved);
        shape_.drawing = std::move(*solved);
        shape_.values = std::move(*values);
        shape_.parameters = in_.parameters;
        for (const Element& e : shape_.drawing.elements)
            if (auto wrong = draw(e)) return pass_on(*wrong);
        for (const Element& e : shape_.drawing.elements)
            if (e.kind == ElementKind::Offset)
                if (auto wrong = offset(e)) return pass_on(*wrong);
        if (in_.task.stopped()) return cancelled();
        auto arrangement = arrange(shape_.curves, gap_mm, in_.task);
        if (!arrangement) return pass_on(arrangement);
        shape_.arrangement = std::move(*arrangement);
        if (auto wrong = fill()) return pass_on(*wrong);
        tell_gaps();
        tell_crossings();
        for (const auto& [id, curves] : of_element_)
            for (const SourcedCurve& c : curves)
                if (c.key != id) shape_.owners.emplace(c.key, id);
        // Cubic in the number of points: left out of very large drawings, which are brought in, not constrained.
        if (shape_.drawing.points.size() <= 600) shape_.freedom = lp::freedom(shape_.drawing, shape_.values);
        return std::move(shape_);
    }

  private:
    static constexpr double gap_mm = 0.01; ///< smaller gaps are closed: below anything a printer shows

    std::optional<Problem> follow_edges(Drawing& drawing) {
        for (Element& e : drawing.elements) {
            if (e.follows.empty()) continue;
            if (!in_.follow) continue; // drawn as it was last seen
            auto curve = in_.follow(e.follows);
            if (!curve) return curve.error();
            bool fits = (e.kind == ElementKind::Line && curve->kind == Curve::Kind::Line) ||
                        (e.kind == ElementKind::Circle && curve->kind == Curve::Kind::Arc && curve->closed()) ||
                        (e.kind == ElementKind::Arc && curve->kind == Curve::Kind::Arc && !curve->closed());
            if (!fits)
                return Problem{ProblemCode::Missing,
                               "The edge that " + element_words(drawing, e.id) + " follows has another form now.",
                               "Remove that element and take the edge again."};
            if (e.kind == ElementKind::Line) {
                drawing.points[e.points[0]] = curve->first();
                drawing.points[e.points[1]] = curve->last();
            } else {
                drawing.points[e.points[0]] = curve->centre;
                if (e.kind == ElementKind::Circle) {
                    e.radius = curve->radius;
                } else {
                    bool ccw = curve->sweep > 0;
                    drawing.points[e.points[1]] = ccw ? curve->first() : curve->last();
                    drawing.points[e.points[2]] = ccw ? curve->last() : curve->first();
                }
            }
        }
        return std::nullopt;
    }

    std::optional<Problem> draw(const Element& e) {
        if (e.kind == ElementKind::Offset || e.kind == ElementKind::Point) return std::nullopt;
        if (e.kind == ElementKind::Import) return import(e);
        if (e.kind == ElementKind::Silhouette) return silhouette(e);
        auto curves = element_curves(shape_.drawing, e, in_);
        if (!curves) return curves.error();
        if (e.kind == ElementKind::Text && !e.construction) {
            int first = int(rules_.size()), letters = 0;
            for (SourcedCurve& c : *curves) {
                letters = std::max(letters, c.contour + 1);
                c.contour += first;
                c.group = 1;
            }
            rules_.insert(rules_.end(), size_t(letters), FillRule::NonZero);
            groups_.push_back({first, first + letters});
        }
        auto& into = e.construction ? shape_.construction : shape_.curves;
        for (const SourcedCurve& c : *curves) of_element_[e.id].push_back(c);
        into.insert(into.end(), curves->begin(), curves->end());
        return std::nullopt;
    }

    std::optional<Problem> import(const Element& e) {
        std::string file = element_text(e, "file");
        if (!in_.import_paths)
            return Problem{ProblemCode::File, "The file \"" + file + "\" cannot be read here.", {}, {}, {}};
        auto paths = in_.import_paths(file);
        if (!paths) return paths.error();
        if (paths->picture) {
            auto how = trace_options(element_text(e, "ink"), element_text(e, "dark"));
            if (!how) return how.error();
            auto traced = traced_picture(*paths->picture, *how);
            if (!traced) return traced.error();
            paths->paths = std::move(*traced);
        }
        auto scale = evaluate_expression(element_text(e, "scale"), QuantityKind::Number, in_.parameters);
        if (!scale) return scale.error();
        auto angle = evaluate_expression(element_text(e, "angle"), QuantityKind::Angle, in_.parameters);
        if (!angle) return angle.error();
        if (!(std::fabs(*scale) >= 1e-6 && std::fabs(*scale) <= 1e6))
            return Problem{ProblemCode::Range, "A scale of " + format_number(*scale) + " cannot be drawn.",
                           "Use a number above 0, such as 25.4 for inches."};
        std::string fill = element_text(e, "fill");
        std::optional<FillRule> over;
        if (fill == "evenodd" || fill == "even-odd") over = FillRule::EvenOdd;
        if (fill == "nonzero" || fill == "non-zero") over = FillRule::NonZero;
        Eigen::Affine2d place = Eigen::Affine2d::Identity();
        place.translate(at(e.points[0]));
        place.rotate(radians(*angle));
        place.scale(*scale);
        if (paths->y_down) {
            place.translate(Vec2(0, paths->height_mm));
            place.scale(Vec2(1, -1));
        }
        int first = int(rules_.size());
        FlatCurves curves = lp::curves_of(*paths, over, Hasher(e.id).add("import").value(), first);
        for (SourcedCurve& c : curves.curves) {
            c.curve = c.curve.mapped(place);
            c.group = c.contour < 0 ? 0 : 1;
            of_element_[e.id].push_back(c);
            (e.construction ? shape_.construction : shape_.curves).push_back(c);
        }
        rules_.insert(rules_.end(), curves.rules.begin(), curves.rules.end());
        if (!curves.rules.empty()) groups_.push_back({first, int(rules_.size())});
        for (const FlatFinding& finding : paths->findings) shape_.notes.push_back(file + ": " + finding.says);
        return std::nullopt;
    }

    std::optional<Problem> silhouette(const Element& e) {
        if (!in_.silhouette) return std::nullopt; // only where there is a part
        auto paths = in_.silhouette(element_text(e, "bodies"));
        if (!paths) return paths.error();
        for (SourcedCurve& c : lp::curves_of(*paths, {}, Hasher(e.id).add("silhouette").value(), 0).curves) {
            c.contour = -1, c.group = 0; // fills by turns, as what is drawn
            of_element_[e.id].push_back(c);
            (e.construction ? shape_.construction : shape_.curves).push_back(c);
        }
        return std::nullopt;
    }

    std::optional<Problem> offset(const Element& e) {
        auto distance = evaluate_expression(element_text(e, "distance"), QuantityKind::Length, in_.parameters);
        if (!distance) return distance.error();
        OffsetOptions options;
        options.distance_mm = *distance;
        options.corners = element_text(e, "corners") == "round" ? Corners::Round : Corners::Sharp;
        options.close_ends = element_text(e, "ends") == "closed";
        options.key = Hasher(e.id).add("offset").value();
        std::vector<SourcedCurve> curves;
        for (DrawingId id : e.of) {
            auto found = of_element_.find(id);
            if (found != of_element_.end()) curves.insert(curves.end(), found->second.begin(), found->second.end());
        }
        for (SourcedCurve& c : curves) c.contour = -1, c.group = 0;
        auto moved = offset_curves(curves, options);
        if (!moved) return moved.error();
        for (SourcedCurve& c : *moved) {
            of_element_[e.id].push_back(c);
            (e.construction ? shape_.construction : shape_.curves).push_back(c);
        }
        return std::nullopt;
    }

    /// Drawn curves fill figure within figure by turns; text and files by their own rules; both together cancel out, so
    /// that a circle drawn in an imported plate is a hole.
    std::optional<Problem> fill() {
        std::vector<SourcedCurve> drawn;
        for (const SourcedCurve& c : shape_.curves)
            if (c.group == 0) drawn.push_back(c);
        bool mixed = !groups_.empty() && !drawn.empty();
        Arrangement alone;
        if (mixed) {
            auto arrangement = arrange(drawn, gap_mm, in_.task);
            if (!arrangement) return arrangement.error();
            alone = std::move(*arrangement);
        }
        for (const FlatRegion& r : shape_.arrangement.regions) {
            bool on = groups_.empty() && r.depth % 2 == 0;
            if (mixed) {
                const FlatRegion* smallest = nullptr;
                for (const FlatRegion& d : alone.regions)
                    if ((!smallest || d.area_mm2 < smallest->area_mm2) && inside_loop(lp::curves_of(d.outer), r.inside))
                        smallest = &d;
                on = smallest && smallest->depth % 2 == 0;
            }
            for (auto [first, last] : groups_) {
                std::vector<FillRule> mine(rules_.begin() + first, rules_.begin() + last);
                if (is_painted(r, mine, first)) on = !on;
            }
            shape_.filled.push_back(on);
        }
        return std::nullopt;
    }

    void tell_gaps() {
        size_t closed = 0;
        for (const OutlineGap& gap : shape_.arrangement.gaps) closed += gap.closed;
        if (closed)
            shape_.notes.push_back(format_number(double(closed)) + (closed == 1 ? " gap" : " gaps") +
                                   " under 0.01 mm closed.");
        // Loose ends matter only where something nearly closes.
        for (const OutlineGap& gap : shape_.arrangement.gaps)
            if (!gap.closed && gap.size_mm > 0 && gap.size_mm < 2) {
                shape_.notes.push_back("A gap of " + format_quantity(gap.size_mm, QuantityKind::Length) +
                                       " is open at " + format_number(gap.at.x(), 2) + ", " +
                                       format_number(gap.at.y(), 2) + " mm.");
                break;
            }
    }

    /// Figures that cross each other make regions on purpose; a line that crosses itself is seldom meant.
    void tell_crossings() {
        if (shape_.arrangement.crossings.empty()) return;
        std::vector<SourcedCurve> drawn;
        for (const SourcedCurve& c : shape_.curves)
            if (c.group == 0) drawn.push_back(c);
        for (const Chain& chain : chains_of(drawn))
            if (auto alone = arrange(chain.curves, gap_mm, in_.task))
                shape_.own_crossings.insert(shape_.own_crossings.end(), alone->crossings.begin(),
                                            alone->crossings.end());
        if (shape_.own_crossings.empty()) return;
        const Vec2& first = shape_.own_crossings.front();
        size_t more = shape_.own_crossings.size() - 1;
        shape_.notes.push_back("A line of the drawing crosses itself at " + format_number(first.x(), 2) + ", " +
                               format_number(first.y(), 2) + " mm" +
                               (more ? " and at " + std::to_string(more) + " more places" : std::string()) +
                               ": the pieces between are regions of their own.");
    }

    Vec2 at(DrawingId id) const { return id == origin_id ? Vec2(0, 0) : shape_.drawing.points.at(id); }

    const Drawing& source_;
    const OutlineInputs& in_;
    OutlineShape shape_;
    std::map<DrawingId, std::vector<SourcedCurve>> of_element_;
    std::vector<FillRule> rules_;
    std::vector<std::pair<int, int>> groups_; ///< ranges of contour sets that were brought in or written
};

/// A letter with every stroke wider by a length on each side.
Expected<std::vector<SourcedCurve>> thickened(const TextLetter& letter, double by_mm, SourceKey key) {
    constexpr double most_mm = 20;
    if (!(std::fabs(by_mm) <= most_mm))
        return problem(ProblemCode::Range, "Letters are thickened by at most 20 mm.", "Type a smaller length.");
    std::vector<SourcedCurve> drawn;
    for (const auto& contour : letter.contours)
        for (const Curve& c : contour) {
            SourcedCurve s;
            s.curve = c;
            s.key = Hasher(key).add(uint64_t(drawn.size())).value();
            s.contour = 0;
            drawn.push_back(std::move(s));
        }
    const auto fails = [&](const Problem& why) {
        return problem(why.code, "A letter cannot be made thicker by " + format_number(by_mm, 2) + " mm.",
                       "Thicken it less, or write larger.");
    };
    auto cut_up = arrange(drawn);
    if (!cut_up) return fails(cut_up.error());
    // Filled by the non-zero rule, as letters are.
    std::vector<FlatRegion> filled;
    for (const FlatRegion& region : cut_up->regions)
        if (!region.winding.empty()) filled.push_back(region);
    auto moved = grown_regions(filled, by_mm);
    if (!moved) return fails(moved.error());
    std::vector<SourcedCurve> curves;
    auto take = [&](const BoundaryLoop& loop) {
        for (const BoundaryCurve& b : loop) {
            SourcedCurve s;
            s.curve = b.curve;
            s.key = Hasher(key).add("thick").add(uint64_t(curves.size())).value();
            curves.push_back(std::move(s));
        }
    };
    for (const FlatRegion& region : *moved) {
        take(region.outer);
        for (const BoundaryLoop& hole : region.holes) take(hole);
    }
    return curves;
}

Expected<std::vector<SourcedCurve>> text_curves(const Drawing& d, const Element& e, const OutlineInputs& inputs,
                                                const Vec2& at) {
    TextLayout layout;
    layout.text = element_text(e, "text");
    layout.font = element_text(e, "font");
    layout.at = at;
    layout.mirrored = element_text(e, "mirrored") == "yes";
    double thicken = 0;
    double* numbers[] = {&layout.size_mm, &layout.spacing_mm, &layout.angle_deg, &thicken};
    auto names = element_quantities(ElementKind::Text);
    for (size_t k = 0; k < names.size(); ++k) {
        auto value = evaluate_expression(element_text(e, names[k].first), names[k].second, inputs.parameters);
        if (!value) return pass_on(value);
        *numbers[k] = *value;
    }
    if (!e.of.empty()) {
        const Element* circle = d.element(e.of[0]);
        if (!circle || (circle->kind != ElementKind::Circle && circle->kind != ElementKind::Arc))
            return problem(ProblemCode::Missing, "The circle of the text is gone.", "Choose a circle again.");
        Vec2 c = circle->points[0] == origin_id ? Vec2(0, 0) : d.points.at(circle->points[0]);
        double r = circle->radius;
        if (circle->kind == ElementKind::Arc)
            r = ((circle->points[1] == origin_id ? Vec2(0, 0) : d.points.at(circle->points[1])) - c).norm();
        layout.circle = TextLayout::Circle{c, r, element_text(e, "side") == "inside"};
    }
    auto letters = text_letters(layout);
    if (!letters) return pass_on(letters);
    std::vector<SourcedCurve> curves;
    int letter = 0;
    uint64_t number = 0;
    for (const TextLetter& l : *letters) {
        if (thicken != 0) {
            auto thicker = thickened(l, thicken, Hasher(e.id).add("text").add(uint64_t(letter)).value());
            if (!thicker) return pass_on(thicker);
            for (SourcedCurve& s : *thicker) {
                s.contour = letter;
                curves.push_back(std::move(s));
            }
            ++letter;
            continue;
        }
        for (const auto& contour : l.contours)
            for (const Curve& c : contour) {
                SourcedCurve s;
                s.curve = c;
                s.key = Hasher(e.id).add("text").add(number++).value();
                s.contour = letter;
                curves.push_back(std::move(s));
            }
        ++letter;
    }
    return curves;
}

} // namespace

Expected<std::vector<SourcedCurve>> element_curves(const Drawing& d, const Element& e, const OutlineInputs& inputs) {
    auto at = [&](size_t k) { return e.points[k] == origin_id ? Vec2(0, 0) : d.points.at(e.points[k]); };
    SourcedCurve s;
    s.key = e.id;
    switch (e.kind) {
    case ElementKind::Line:
        s.curve = Curve::line(at(0), at(1));
        break;
    case ElementKind::Arc:
        s.curve = Curve::arc_between(at(0), at(1), at(2), true).fitted(at(1), at(2));
        break;
    case ElementKind::Circle:
        s.curve = Curve::circle(at(0), e.radius);
        break;
    case ElementKind::Ellipse:
        s.curve = Curve::ellipse(at(0), at(1) - at(0), e.radius, 0, 2 * std::numbers::pi);
        break;
    case ElementKind::Spline: {
        std::vector<Vec2> through;
        for (size_t k = 0; k < e.points.size(); ++k) through.push_back(at(k));
        for (size_t k = 0; k + 1 < through.size(); ++k)
            if ((through[k + 1] - through[k]).norm() < 1e-6)
                return problem(ProblemCode::Geometry, "Two points of " + element_words(d, e.id) + " lie on each other.",
                               "Move one of them.");
        s.curve = Curve::spline(through, e.closed);
        break;
    }
    case ElementKind::Formula: {
        FormulaCurve f;
        f.expression = element_text(e, "expression");
        f.x_of_y = element_text(e, "axis") == "x of y";
        f.origin = at(0);
        double* numbers[] = {&f.from_mm, &f.to_mm};
        auto names = element_quantities(ElementKind::Formula);
        for (size_t k = 0; k < names.size(); ++k) {
            auto value = evaluate_expression(element_text(e, names[k].first), names[k].second, inputs.parameters);
            if (!value) return pass_on(value);
            *numbers[k] = *value;
        }
        auto curve = formula_curve(f, inputs.parameters);
        if (!curve) return pass_on(curve);
        s.curve = *curve;
        break;
    }
    case ElementKind::Text:
        return text_curves(d, e, inputs, at(0));
    default:
        return std::vector<SourcedCurve>{};
    }
    return std::vector{s};
}

Expected<OutlineShape> make_outline(const Drawing& drawing, const OutlineInputs& inputs) {
    return OutlineMaker(drawing, inputs).run();
}

std::vector<std::vector<SourcedCurve>> open_paths(const OutlineShape& outline) {
    std::vector<std::vector<SourcedCurve>> paths;
    for (Chain& chain : chains_of(outline.curves)) paths.push_back(std::move(chain.curves));
    auto length = [](const std::vector<SourcedCurve>& path) {
        double sum = 0;
        for (const SourcedCurve& c : path) sum += c.curve.length();
        return sum;
    };
    std::sort(paths.begin(), paths.end(), [&](const auto& a, const auto& b) { return length(a) > length(b); });
    return paths;
}

} // namespace lp
