#include "app/outline/outline_editor.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include <QLineEdit>
#include <QMouseEvent>

namespace lp {

OutlineEditor::OutlineEditor(Session* session, ViewWidget* view) : QObject(view), session_(session), view_(view) {
    connect(&session->document(), &Document::project_changed, this, [this] {
        if (!active()) return;
        const Step* step = session_->project()->step(part_, step_);
        if (!step || !draws(*step)) return close();
        if (dragging_) return;
        if (auto drawing = drawing_of(*step)) drawing_ = *drawing;
        std::erase_if(selected_, [&](DrawingId id) {
            return !drawing_.element(id) && !drawing_.is_point(id) && !drawing_.constraint(id);
        });
        std::erase_if(select_order_, [&](DrawingId id) { return !selected_.count(id); });
        emit changed();
    });
    connect(&session->results(), &Results::evaluated, this, [this] {
        if (active()) take_results();
    });
}

void OutlineEditor::open(PartId part, StepId step) {
    const Step* its = session_->project()->step(part, step);
    if (!its || !draws(*its)) return;
    auto drawing = drawing_of(*its);
    if (!drawing) return session_->say(QString::fromStdString(drawing.error().text()), true);
    if (!active()) looked_from_ = view_->camera();
    part_ = part;
    step_ = step;
    for_step_ = {};
    drawing_ = *drawing;
    shape_.reset();
    plane_known_ = square_on_ = false;
    selected_.clear();
    select_order_.clear();
    regions_.clear();
    clicks_.clear();
    tool_ = DrawTool::Select;
    session_->workspace().clear_selection();
    take_results();
    emit mode_changed();
    emit changed();
    view_->setFocus();
}

void OutlineEditor::choose_for(PartId part, StepId outline, StepId step) {
    open(part, outline);
    if (!active()) return;
    for_step_ = step;
    const Step* its = session_->project()->step(part, step);
    const StepKind* kind = its ? find_step_kind(its->kind) : nullptr;
    if (const StepField* field = kind ? kind->field_of(FieldKind::Regions) : nullptr; field && shape_)
        if (auto now = lp::chosen_regions(*shape_, field_text(*its, *field))) regions_ = *now;
    emit changed();
}

void OutlineEditor::close() {
    if (!active()) return;
    if (box_) box_->deleteLater();
    part_ = {};
    step_ = for_step_ = {};
    shape_.reset();
    clicks_.clear();
    regions_.clear();
    drag_.reset();
    dragging_ = false;
    view_->set_hint({});
    if (looked_from_) view_->look_from(*looked_from_); // back to where the maker looked from
    looked_from_.reset();
    emit mode_changed();
    emit changed();
}

void OutlineEditor::take_results() {
    const PartResult* part = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    if (!part) return;
    for (const PlacedOutline& outline : part->outlines)
        if (outline.step == step_) {
            plane_ = outline.plane;
            plane_known_ = true;
            shape_ = outline.shape;
            // Numbers may have moved what is drawn: the solved places are the ones to draw on with.
            if (session_->results().evaluation_is_current() && !dragging_) drawing_ = shape_->drawing;
        }
    std::erase_if(regions_, [&](size_t i) { return !shape_ || i >= shape_->arrangement.regions.size(); });
    if (plane_known_ && !square_on_) turn_square_on();
    emit changed();
}

void OutlineEditor::turn_square_on() {
    square_on_ = true;
    Vec3 normal = plane_.linear().col(2);
    Camera& camera = view_->camera();
    camera.look_along(-normal);
    if (std::fabs(normal.z()) > 0.99) { // from above or below: x of the drawing to the right
        double best = -2, yaw = camera.yaw_deg;
        for (int k = 0; k < 360; ++k) {
            camera.yaw_deg = k - 180;
            QPointF d =
                view_->project(plane_.translation() + plane_.linear().col(0)) - view_->project(plane_.translation());
            double right = d.x() / std::max(1e-9, std::hypot(d.x(), d.y()));
            if (right > best) best = right, yaw = camera.yaw_deg;
        }
        camera.yaw_deg = yaw;
    }
    Box3 box;
    if (shape_)
        for (const SourcedCurve& c : shape_->curves) {
            Box2 b = c.curve.box();
            for (const Vec2& p : {b.min(), b.max()}) box.extend(plane_ * Vec3(p.x(), p.y(), 0));
        }
    const PartResult* part = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    if (part && part->before.count(step_))
        for (const StepBody& body : part->before.at(step_)) box.extend(body.body.box());
    if (box.isEmpty()) {
        for (double s : {-40.0, 40.0}) box.extend(plane_ * Vec3(s, s, 0));
    }
    view_->fit_box(box);
}

ParameterValues OutlineEditor::values() const {
    auto values = project_values(*session_->project());
    return values ? *values : ParameterValues{};
}

void OutlineEditor::say_wrong(const Problem& why) {
    session_->say(QString::fromStdString(why.text()), true);
}

bool OutlineEditor::commit(Drawing next, const QString& sentence) {
    auto sizes = dimension_values(next, values());
    auto solved = sizes ? solve(next, *sizes) : pass_on(sizes);
    if (!solved) {
        say_wrong(solved.error());
        return false;
    }
    Edit edit(SetDrawing{part_, step_, *solved});
    edit.sentence = sentence.toStdString();
    if (session_->document().edit(edit)) return false;
    drawing_ = *solved;
    emit changed();
    return true;
}

QPointF OutlineEditor::to_view(const Vec2& p) const {
    return view_->project(plane_ * Vec3(p.x(), p.y(), 0));
}

Vec2 OutlineEditor::to_drawing(const QPointF& at) const {
    Camera::Ray ray = view_->camera().ray(at, view_->size());
    Vec3 n = plane_.linear().col(2), o = plane_.translation();
    double along = ray.direction.dot(n);
    if (std::fabs(along) < 1e-6) return Vec2::Zero(); // seen edge-on
    Vec3 hit = ray.origin + ray.direction * ((o - ray.origin).dot(n) / along);
    return (plane_.inverse() * hit).head<2>();
}

double OutlineEditor::near_mm() const {
    return 8 * view_->camera().pixel_mm(view_->size());
}

std::optional<DrawingId> OutlineEditor::point_at(const QPointF& at) const {
    std::optional<DrawingId> best;
    double nearest = 9;
    auto look = [&](DrawingId id, const Vec2& p) {
        double d = std::hypot(to_view(p).x() - at.x(), to_view(p).y() - at.y());
        if (d < nearest) nearest = d, best = id;
    };
    look(origin_id, {0, 0});
    for (const auto& [id, p] : drawing_.points) look(id, p);
    return best;
}

std::optional<DrawingId> OutlineEditor::element_at(const QPointF& at) const {
    std::optional<DrawingId> best;
    double nearest = near_mm() * 0.55; // less than half of a thin wall at the usual zoom: its inside stays clickable
    Vec2 p = to_drawing(at);
    OutlineInputs inputs;
    inputs.parameters = values();
    for (const Element& e : drawing_.elements) {
        if (is_derived(e.kind)) continue;
        auto curves = element_curves(drawing_, e, inputs);
        if (!curves) continue;
        std::vector<Curve> plain;
        for (const SourcedCurve& c : *curves) plain.push_back(c.curve);
        if (double d = distance_to(plain, p); d < nearest) nearest = d, best = e.id;
    }
    // Derived curves belong to the element that made them.
    if (!best && shape_)
        for (const Element& e : drawing_.elements) {
            if (!is_derived(e.kind)) continue;
            for (const SourcedCurve& c : shape_->curves)
                if (c.key > 0xffffffffu && shape_->owner_of(c.key) == e.id &&
                    c.curve.box().squaredExteriorDistance(p) < nearest * nearest)
                    if (double d = (c.curve.at(c.curve.nearest(p)) - p).norm(); d < nearest) nearest = d, best = e.id;
        }
    return best;
}

std::optional<DrawingId> OutlineEditor::label_at(const QPointF& at) const {
    for (const Constraint& c : drawing_.constraints)
        if (is_dimension(c.kind) && label_rect(c).contains(at)) return c.id;
    return std::nullopt;
}

std::optional<DrawingId> OutlineEditor::mark_at(const QPointF& at) const {
    for (const Mark& m : constraint_marks())
        if (m.rect.contains(at)) return m.constraint;
    return std::nullopt;
}

Snap OutlineEditor::snap(const QPointF& at) const {
    Snap s;
    s.at = to_drawing(at);
    if (auto point = point_at(at)) {
        s.point = point;
        s.at = *point == origin_id ? Vec2(0, 0) : drawing_.points.at(*point);
        s.words = *point == origin_id ? "origin" : "point";
        return s;
    }
    double near = near_mm();
    for (const Element& e : drawing_.elements) {
        if (e.kind != ElementKind::Line && e.kind != ElementKind::Arc && e.kind != ElementKind::Circle) continue;
        auto curves = element_curves(drawing_, e, {});
        if (!curves) continue;
        const Curve& c = curves->front().curve;
        if (e.kind == ElementKind::Line && (c.at(0.5) - s.at).norm() < near) {
            s.at = c.at(0.5);
            s.element = e.id;
            s.words = "middle";
            return s;
        }
        Vec2 foot = c.at(c.nearest(s.at));
        if ((foot - s.at).norm() < near * 0.8) {
            s.at = foot;
            s.element = e.id;
            s.words = QString("on %1").arg(QString::fromStdString(element_words(drawing_, e.id)));
        }
    }
    if (s.element) return s;
    // Whole steps of a grid that suits the zoom; level and upright against the last click.
    double pixel = view_->camera().pixel_mm(view_->size());
    double grid = shown_unit_mm() * std::pow(10, std::floor(std::log10(pixel * 20 / shown_unit_mm())));
    if (grid < pixel * 6) grid *= 5;
    Vec2 on_grid = (s.at / grid).array().round() * grid;
    s.at = on_grid;
    if (!clicks_.empty()) {
        Vec2 last = clicks_.back().at, d = to_drawing(at) - last;
        if (std::fabs(d.y()) < std::max(near * 0.7, 0.03 * std::fabs(d.x())) && std::fabs(d.x()) > near)
            s.at.y() = last.y(), s.level = true, s.words = "level";
        if (std::fabs(d.x()) < std::max(near * 0.7, 0.03 * std::fabs(d.y())) && std::fabs(d.y()) > near)
            s.at.x() = last.x(), s.upright = true, s.words = "upright";
    }
    return s;
}

void OutlineEditor::select(DrawingId id, bool add) {
    if (!add) selected_.clear(), select_order_.clear(), regions_.clear();
    if (add && selected_.count(id)) {
        selected_.erase(id);
        std::erase(select_order_, id);
    } else {
        selected_.insert(id);
        select_order_.push_back(id);
    }
    emit changed();
}

void OutlineEditor::select_at(const QPointF& at, bool add) {
    if (auto point = point_at(at)) return select(*point, add);
    if (auto mark = mark_at(at)) return select(*mark, add);
    if (auto element = element_at(at)) return select(*element, add);
    // Inside a region: chosen, or let go.
    if (shape_) {
        Vec2 p = to_drawing(at);
        for (size_t i = shape_->arrangement.regions.size(); i-- > 0;) {
            const FlatRegion& r = shape_->arrangement.regions[i];
            bool inside = inside_loop(curves_of(r.outer), p) &&
                          std::none_of(r.holes.begin(), r.holes.end(),
                                       [&](const BoundaryLoop& h) { return inside_loop(curves_of(h), p); });
            if (!inside) continue;
            selected_.clear();
            select_order_.clear();
            if (auto there = std::find(regions_.begin(), regions_.end(), i); there != regions_.end())
                regions_.erase(there);
            else
                regions_.push_back(i); // regions add up without a key: they are nearly always several
            emit changed();
            return;
        }
    }
    selected_.clear();
    select_order_.clear();
    regions_.clear();
    emit changed();
}

void OutlineEditor::remove_selected() {
    if (selected_.empty()) return;
    Drawing next = drawing_;
    next.remove(selected_);
    selected_.clear();
    select_order_.clear();
    commit(next, "Removed from the outline");
}

bool OutlineEditor::press(QMouseEvent* event) {
    if (!active() || event->button() != Qt::LeftButton || event->modifiers() & Qt::ShiftModifier) return false;
    press_ = event->position();
    dragging_ = false;
    drag_what_ = 0;
    if (tool_ == DrawTool::Select) {
        if (auto point = point_at(press_); point && *point != origin_id)
            drag_what_ = *point;
        else if (auto element = element_at(press_))
            drag_what_ = *element;
    }
    return true;
}

bool OutlineEditor::move(QMouseEvent* event) {
    if (!active()) return false;
    QPointF at = event->position();
    if (event->buttons() & Qt::LeftButton && drag_what_ && (dragging_ || (at - press_).manhattanLength() > 4)) {
        const Element* e = drawing_.element(drag_what_);
        if (!dragging_ && (!e || e->kind <= ElementKind::Point)) {
            auto sizes = dimension_values(drawing_, values());
            if (sizes) drag_ = std::make_unique<Drag>(drawing_, *sizes, drag_what_, to_drawing(press_));
            dragging_ = drag_ != nullptr;
        }
        if (dragging_) {
            drawing_ = drag_->move(to_drawing(at));
            view_->update();
        }
        return true;
    }
    if (event->buttons() != Qt::NoButton)
        return event->buttons() & Qt::LeftButton && !(event->modifiers() & Qt::ShiftModifier);
    hover_ = snap(at);
    QString says = hover_.words.isEmpty() ? QString("%1, %2 mm") : hover_.words + " · %1, %2 mm";
    view_->set_hint(says.arg(QString::fromStdString(format_number(hover_.at.x(), 2)),
                             QString::fromStdString(format_number(hover_.at.y(), 2))));
    return true;
}

bool OutlineEditor::release(QMouseEvent* event) {
    if (!active() || event->button() != Qt::LeftButton) return false;
    QPointF at = event->position();
    if (dragging_) {
        dragging_ = false;
        drag_.reset();
        commit(drawing_, "Pulled in the outline");
        return true;
    }
    drag_what_ = 0;
    if ((at - press_).manhattanLength() > 4) return true;
    if (auto label = label_at(at); label && clicks_.empty()) {
        edit_dimension(*label);
        return true;
    }
    if (tool_ == DrawTool::Select)
        select_at(at, event->modifiers() & Qt::ControlModifier);
    else if (tool_ == DrawTool::TakeEdge)
        take_edge(at);
    else
        click(snap(at));
    return true;
}

bool OutlineEditor::double_click(QMouseEvent* event) {
    if (!active() || event->button() != Qt::LeftButton) return false;
    finish_tool();
    return true;
}

bool OutlineEditor::key(QKeyEvent* event) {
    if (!active()) return false;
    int key = event->key();
    if (key == Qt::Key_Escape) {
        if (!clicks_.empty())
            finish_tool();
        else if (tool_ != DrawTool::Select)
            set_tool(DrawTool::Select);
        else if (!selected_.empty() || !regions_.empty())
            select_at(QPointF(-1e4, -1e4), false);
        else
            close();
        return true;
    }
    if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
        remove_selected();
        return true;
    }
    if ((key == Qt::Key_Return || key == Qt::Key_Enter) && !clicks_.empty()) {
        finish_tool();
        return true;
    }
    // While something is being drawn, a number is its size, not an offer.
    QString text = event->text();
    if (!clicks_.empty() && !text.isEmpty() && (text[0].isDigit() || text[0] == '-' || text[0] == '.')) {
        typed(text);
        return true;
    }
    return false;
}

} // namespace lp
