// What can be done while drawing: tools, constraints for what is chosen, solids from regions.
#include "app/offers/selection_fields.h"
#include "app/outline/drawing_words.h"
#include "app/outline/outline_editor.h"
#include "app/sheet/build_sheet.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include "base/text.h"
#include "outline/picture_trace.h"
#include "outline/text_curves.h"
#include <QMenu>

namespace lp {
/// What is chosen, in the order a constraint wants it; empty when it does not suit.
std::vector<DrawingId> OutlineEditor::ordered_selection(ConstraintKind kind) const {
    std::vector<DrawingId> points, lines, rounds, ovals, splines, others;
    for (DrawingId id : select_order_) {
        const Element* e = drawing_.element(id);
        if (!e && drawing_.is_point(id))
            points.push_back(id);
        else if (e && e->kind == ElementKind::Line)
            lines.push_back(id);
        else if (e && (e->kind == ElementKind::Arc || e->kind == ElementKind::Circle))
            rounds.push_back(id);
        else if (e && e->kind == ElementKind::Ellipse)
            ovals.push_back(id);
        else if (e && e->kind == ElementKind::Spline)
            splines.push_back(id);
        else
            others.push_back(id);
    }
    size_t p = points.size(), l = lines.size(), r = rounds.size();
    auto both = [](std::vector<DrawingId> a, const std::vector<DrawingId>& b) {
        a.insert(a.end(), b.begin(), b.end());
        return a;
    };
    size_t o = ovals.size(), s = splines.size();
    if (o + s && others.empty()) { // the few things that can be said of ellipses and splines
        if (kind == ConstraintKind::On && p == 1 && o == 1 && l + r + s == 0) return both(points, ovals);
        if (kind == ConstraintKind::Concentric && o + r == 2 && p + l + s == 0) return both(ovals, rounds);
        if (kind == ConstraintKind::Tangent && p == 0 && o == 1 && l == 1 && r + s == 0) return both(lines, ovals);
        if (kind == ConstraintKind::Tangent && p == 0 && s == 1 && l + r == 1 && o == 0)
            return both(splines, both(lines, rounds));
    }
    others = both(others, both(ovals, splines));
    if (!others.empty() && kind != ConstraintKind::Fixed) return {};
    switch (kind) {
    case ConstraintKind::Coincident:
    case ConstraintKind::DistanceX:
    case ConstraintKind::DistanceY:
        return p == 2 && l + r == 0 ? points : std::vector<DrawingId>{};
    case ConstraintKind::On:
        return p == 1 && l + r == 1 ? both(points, both(lines, rounds)) : std::vector<DrawingId>{};
    case ConstraintKind::Horizontal:
    case ConstraintKind::Vertical:
        if (l == 1 && p + r == 0) return lines;
        return p == 2 && l + r == 0 ? points : std::vector<DrawingId>{};
    case ConstraintKind::Parallel:
    case ConstraintKind::Perpendicular:
        return l == 2 && p + r == 0 ? lines : std::vector<DrawingId>{};
    case ConstraintKind::Tangent:
        return p == 0 && l + r == 2 && r >= 1 ? both(lines, rounds) : std::vector<DrawingId>{};
    case ConstraintKind::Equal:
        if (p == 0 && l == 2 && r == 0) return lines;
        return p == 0 && r == 2 && l == 0 ? rounds : std::vector<DrawingId>{};
    case ConstraintKind::Midpoint:
        return p == 1 && l == 1 && r == 0 ? both(points, lines) : std::vector<DrawingId>{};
    case ConstraintKind::Symmetric:
        return p == 2 && l == 1 && r == 0 ? both(points, lines) : std::vector<DrawingId>{};
    case ConstraintKind::Concentric:
        return r == 2 && p + l == 0 ? rounds : std::vector<DrawingId>{};
    case ConstraintKind::Fixed:
        return p + l + r + others.size() == 1 ? both(both(points, lines), both(rounds, others))
                                              : std::vector<DrawingId>{};
    case ConstraintKind::Distance:
        if (r) return {};
        if (p == 2 && l == 0) return points;
        if (p == 1 && l == 1) return both(points, lines);
        return p == 0 && l == 2 ? lines : std::vector<DrawingId>{};
    case ConstraintKind::Length:
        return l == 1 && p + r == 0 ? lines : std::vector<DrawingId>{};
    case ConstraintKind::Angle:
        return (l == 1 || l == 2) && p + r == 0 ? lines : std::vector<DrawingId>{};
    case ConstraintKind::Radius:
    case ConstraintKind::Diameter:
        return r == 1 && p + l == 0 ? rounds : std::vector<DrawingId>{};
    case ConstraintKind::ArcLength:
        return r == 1 && p + l == 0 && drawing_.element(rounds[0])->kind == ElementKind::Arc ? rounds
                                                                                             : std::vector<DrawingId>{};
    }
    return {};
}

void OutlineEditor::constrain_selected(ConstraintKind kind, const std::string& value) {
    std::vector<DrawingId> of = ordered_selection(kind);
    if (of.empty()) return session_->say("Choose what it is to be said of first.", true);
    Constraint c;
    c.kind = kind;
    c.of = of;
    c.value = value;
    auto next = constrain(drawing_, c, values());
    if (!next) return say_wrong(next.error());
    DrawingId id = next->constraints.back().id;
    QString words = QString::fromStdString(constraint_words(next->constraints.back()));
    if (!commit(*next, "Outline: " + words)) return;
    // A new dimension shows what it measures and waits for another number.
    if (is_dimension(kind) && value.empty() && view_->isVisible()) edit_dimension(id);
}

void OutlineEditor::offset_selected(const std::string& distance) {
    Drawing next = drawing_;
    std::vector<DrawingId> of;
    for (const Element& e : drawing_.elements) {
        bool chosen = selected_.empty() ? !e.construction : selected_.count(e.id) > 0;
        if (chosen && e.kind != ElementKind::Point && e.kind != ElementKind::Offset) of.push_back(e.id);
    }
    // One line stands for the region it bounds, the smaller of two; chosen regions for their outer lines; else for its
    // chain.
    std::vector<const FlatRegion*> meant;
    if (shape_ && selected_.size() == 1 && of.size() == 1) {
        for (const FlatRegion& r : shape_->arrangement.regions) // largest first: the last is the smallest
            if (std::any_of(r.outer.begin(), r.outer.end(), [&](const BoundaryCurve& c) { return c.key == of[0]; }))
                meant = {&r};
    } else if (shape_ && selected_.empty()) {
        for (size_t i : regions_) meant.push_back(&shape_->arrangement.regions[i]);
    }
    if (!meant.empty()) {
        std::set<DrawingId> border;
        for (const FlatRegion* r : meant)
            for (const BoundaryCurve& c : r->outer) border.insert(shape_->owner_of(c.key));
        std::erase_if(border, [&](DrawingId id) { return !drawing_.element(id); });
        of.assign(border.begin(), border.end());
    } else if (selected_.size() == 1 && of.size() == 1) {
        std::set<DrawingId> loop{of[0]};
        for (bool more = true; more;) {
            more = false;
            for (const Element& e : drawing_.elements)
                if (!loop.count(e.id) &&
                    (e.kind == ElementKind::Line || e.kind == ElementKind::Arc || e.kind == ElementKind::Spline) &&
                    !e.construction)
                    for (DrawingId id : std::set<DrawingId>(loop)) {
                        const Element* other = drawing_.element(id);
                        for (DrawingId p : e.points)
                            for (DrawingId q : other->points) more = (p == q && loop.insert(e.id).second) || more;
                    }
        }
        of.assign(loop.begin(), loop.end());
    }
    if (of.empty()) return session_->say("There is nothing to offset. Choose lines first.", true);
    DrawingId id = next.add(ElementKind::Offset, {});
    next.element(id)->of = of;
    next.element(id)->texts = {{"distance", distance}, {"corners", "sharp"}, {"ends", "open"}};
    auto value = evaluate_expression(distance, QuantityKind::Length, values());
    if (!value) return say_wrong(value.error());
    if (commit(next, "Outline: offset by " + QString::fromStdString(distance))) select(id, false);
}

void OutlineEditor::edit_text(DrawingId id, const std::string& name) {
    const Element* e = drawing_.element(id);
    if (!e) return;
    Vec2 at = e->points.empty() || !drawing_.points.count(e->points[0]) ? Vec2(0, 0) : drawing_.points.at(e->points[0]);
    std::optional<QuantityKind> quantity;
    for (const auto& [own, kind] : element_quantities(e->kind))
        if (own == name) quantity = kind;
    open_box(
        to_view(at), QString::fromStdString(element_text(*e, name)), QString::fromStdString(name),
        [this, id, name](const QString& text) {
            Drawing next = drawing_;
            next.element(id)->texts[name] = text.toStdString();
            OutlineInputs inputs;
            inputs.parameters = values();
            if (auto curves = element_curves(next, *next.element(id), inputs); !curves)
                return say_wrong(curves.error());
            for (const auto& [own, kind] : element_quantities(next.element(id)->kind))
                if (own == name)
                    if (auto value = evaluate_expression(text.toStdString(), kind, values()); !value)
                        return say_wrong(value.error());
            if (name == "dark")
                if (auto how = trace_options("dark", text.toStdString()); !how) return say_wrong(how.error());
            commit(next, "Outline: " + QString::fromStdString(name) + " to " + text);
        },
        quantity);
}

void OutlineEditor::make_solid(const StepKind& kind, std::map<std::string, std::string> fields) {
    std::string which = "all";
    if (!regions_.empty() && shape_) {
        std::vector<RegionChoice> choices;
        for (size_t i : regions_) choices.push_back(choice_of(shape_->arrangement.regions[i]));
        which = choices_text(choices);
    } else if (auto any = shape_ ? lp::chosen_regions(*shape_, "all")
                                 : problem(ProblemCode::Missing, "Nothing is drawn yet.", "Draw a closed line.");
               !any) {
        return say_wrong(any.error());
    }
    if (const StepField* field = kind.field_of(FieldKind::Regions)) fields[field->name] = which;
    if (const StepField* field = kind.field_of(FieldKind::Outline)) fields[field->name] = to_text(step_);
    PartId part = part_;
    close();
    add_step(session_, part, kind.id, fields);
}

void OutlineEditor::add_tool_offers(std::vector<Offer>& offers) {
    auto tool = [&](DrawTool which) {
        const NamedTool* t = tool_named(which);
        offers.push_back({t->words, [this, which] { set_tool(which); }, t->hint});
    };
    bool closed = shape_ && !shape_->arrangement.regions.empty();
    for (DrawTool which : {DrawTool::Line, DrawTool::Rectangle}) tool(which);
    if (closed)
        add_growing_offers(offers, 1);
    else
        tool(DrawTool::Circle);
    offers.push_back(
        {"More …",
         [this] {
             auto* menu = new QMenu(view_);
             menu->setAttribute(Qt::WA_DeleteOnClose);
             const auto& drawn = drawing_.elements;
             const bool any_file = std::any_of(drawn.begin(), drawn.end(),
                                               [](const Element& e) { return e.kind == ElementKind::Import; });
             for (const NamedTool& t : named_tools())
                 if (t.tool != DrawTool::TrueLength || any_file)
                     QObject::connect(menu->addAction(QString("%1 – %2").arg(t.words, t.hint)), &QAction::triggered,
                                      this, [this, tool = t.tool] { set_tool(tool); });
             menu->addSeparator();
             // Queued: the menu is gone before the dialog runs its own loop.
             QObject::connect(
                 menu->addAction("Bring in a drawing or a picture … – SVG, DXF, a photo"), &QAction::triggered, this,
                 [this] { choose_file(); }, Qt::QueuedConnection);
             QObject::connect(menu->addAction("Offset everything – by a distance"), &QAction::triggered, this, [this] {
                 open_box(
                     QPointF(view_->width() / 2.0, 80), "", "distance, negative inward",
                     [this](const QString& text) { offset_selected(text.toStdString()); }, QuantityKind::Length);
             });
             QObject::connect(menu->addAction(cut_away_ ? "Show the whole part" : "Cut the part away at the drawing"),
                              &QAction::triggered, this, [this] {
                                  cut_away_ = !cut_away_;
                                  emit mode_changed();
                              });
             QObject::connect(menu->addAction("Look square on"), &QAction::triggered, this,
                              [this] { turn_square_on(); });
             menu->popup(view_->mapToGlobal(QPoint(view_->width() / 2, view_->height() - 40)));
         },
         "every tool, files, offset, cut away"});
    offers.push_back({"Done", [this] { close(); }, "leaves the drawing"});
    // Beyond what fits the row: their digits and the typed line still take them. An edge can be taken where there is a
    // body to take it from.
    const PartResult* part = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    if (part && part->before.count(step_) && !part->before.at(step_).empty()) tool(DrawTool::TakeEdge);
    if (closed) tool(DrawTool::Circle);
    for (DrawTool which : {DrawTool::Text, DrawTool::Arc}) tool(which);
}

void OutlineEditor::add_constraint_offers(std::vector<Offer>& offers) {
    for (const NamedConstraint& c : named_constraints()) {
        if (ordered_selection(c.kind).empty()) continue;
        if (c.kind == ConstraintKind::Radius || c.kind == ConstraintKind::ArcLength) continue; // by the typed line
        offers.push_back({c.words, [this, kind = c.kind] { constrain_selected(kind); }, ""});
    }
}

/// Words and numbers that an element has besides its points.
void OutlineEditor::add_text_offers(std::vector<Offer>& offers, const Element& e) {
    static const std::map<ElementKind, std::vector<const char*>> names{
        {ElementKind::Text, {"text", "size", "spacing", "angle", "thicken", "mirrored", "font"}},
        {ElementKind::Formula, {"expression", "from", "to", "axis"}},
        {ElementKind::Import, {"scale", "angle"}},
        {ElementKind::Offset, {"distance", "corners", "ends"}},
        {ElementKind::Silhouette, {"bodies"}}};
    auto its = names.find(e.kind);
    if (its == names.end()) return;
    std::vector<const char*> shown = its->second;
    if (is_picture(e)) shown = {"dark", "ink", "scale", "angle"};
    if (e.kind == ElementKind::Import)
        offers.push_back({"True length", [this] { set_tool(DrawTool::TrueLength); },
                          "click two places and type what lies between them in truth"});
    for (const char* name : shown) {
        QString words = name;
        words[0] = words[0].toUpper();
        QString now = as_shown(element_text(e, name));
        offers.push_back(
            {words + (now.size() < 12 ? " " + now : ""), [this, id = e.id, name] { change_text(id, name); }, ""});
    }
}

void OutlineEditor::change_text(DrawingId id, const char* name) {
    std::vector<std::string> choices;
    if (std::string(name) == "font") choices = shipped_fonts();
    if (std::string(name) == "corners") choices = {"sharp", "round"};
    if (std::string(name) == "ink") choices = {"dark", "light"};
    if (std::string(name) == "mirrored") choices = {"no", "yes"};
    if (std::string(name) == "ends") choices = {"open", "closed"};
    if (choices.empty()) return edit_text(id, name);
    auto* menu = new QMenu(view_);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const std::string& choice : choices)
        QObject::connect(menu->addAction(QString::fromStdString(choice)), &QAction::triggered, this,
                         [this, id, name, choice] {
                             Drawing next = drawing_;
                             next.element(id)->texts[name] = choice;
                             commit(next, QString("Outline: %1 to %2").arg(name, QString::fromStdString(choice)));
                         });
    if (std::string(name) == "font")
        QObject::connect(menu->addAction("An installed font …"), &QAction::triggered, this,
                         [this, id] { edit_text(id, "font"); });
    menu->popup(view_->mapToGlobal(QPoint(view_->width() / 2, view_->height() - 40)));
}

void OutlineEditor::add_corner_offers(std::vector<Offer>& offers, DrawingId id) {
    for (bool round : {true, false})
        offers.push_back(
            {round ? "Fillet" : "Chamfer",
             [this, id, round] {
                 open_box(
                     to_view(drawing_.points.at(id)), "3 mm", round ? "radius" : "size",
                     [this, id, round](const QString& text) {
                         auto next = round ? round_corner(drawing_, id, text.toStdString(), values())
                                           : bevel_corner(drawing_, id, text.toStdString(), values());
                         if (!next) return say_wrong(next.error());
                         commit(*next, QString(round ? "Rounded a corner by %1" : "Bevelled a corner by %1").arg(text));
                     },
                     QuantityKind::Length);
             },
             "of the two lines that meet here"});
}

void OutlineEditor::add_element_offers(std::vector<Offer>& offers) {
    if (selected_.size() == 1) {
        DrawingId id = *selected_.begin();
        if (const Element* e = drawing_.element(id))
            add_text_offers(offers, *e);
        else if (id != origin_id && drawing_.is_point(id))
            add_corner_offers(offers, id);
    }
    std::set<DrawingId> elements;
    DrawingId circle = 0, text = 0;
    for (DrawingId id : selected_)
        if (const Element* e = drawing_.element(id)) {
            elements.insert(id);
            if (e->kind == ElementKind::Circle || e->kind == ElementKind::Arc) circle = id;
            if (e->kind == ElementKind::Text) text = id;
        }
    if (circle && text && elements.size() == 2)
        offers.push_back({"Along the circle",
                          [this, circle, text] {
                              Drawing next = drawing_;
                              next.element(text)->of = {circle};
                              next.element(circle)->construction = true;
                              commit(next, "Text along a circle");
                          },
                          "the text runs round it"});
    if (!elements.empty()) {
        offers.push_back({"Offset",
                          [this] {
                              open_box(
                                  QPointF(view_->width() / 2.0, 80), "", "distance, negative inward",
                                  [this](const QString& t) { offset_selected(t.toStdString()); }, QuantityKind::Length);
                          },
                          "a line beside it, inward with a minus"});
        offers.push_back({"Copy to …", [this] { offer_copies(view_); }, "another outline, with its constraints"});
        offers.push_back({"Construction",
                          [this, elements] {
                              Drawing next = drawing_;
                              for (DrawingId id : elements)
                                  next.element(id)->construction = !next.element(id)->construction;
                              commit(next, "Construction line or not");
                          },
                          "helps to draw, bounds nothing"});
        if (elements.size() > 1 && !select_order_.empty())
            if (const Element* last = drawing_.element(select_order_.back()); last && last->kind == ElementKind::Line)
                offers.push_back({"Mirror",
                                  [this, elements, line = last->id] {
                                      std::set<DrawingId> what = elements;
                                      what.erase(line);
                                      auto next = mirror(drawing_, what, line);
                                      if (!next) return say_wrong(next.error());
                                      commit(*next, "Mirrored in the outline");
                                  },
                                  "about the line chosen last"});
    }
    if (!selected_.empty()) offers.push_back({"Remove", [this] { remove_selected(); }, ""});
}

void OutlineEditor::offer_copies(QWidget* at) {
    auto* menu = new QMenu(at);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const PartPtr& part : session_->project()->parts)
        for (size_t i = 0; i < part->steps.size(); ++i) {
            const Step& s = part->steps[i];
            if (!draws(s) || s.id == step_) continue;
            QString words = (s.name.empty() ? QString("step %1").arg(i + 1) : QString::fromStdString(s.name)) + " of " +
                            QString::fromStdString(part->name);
            connect(menu->addAction(words), &QAction::triggered, this,
                    [this, p = part->id, id = s.id] { copy_to(p, id); });
        }
    if (menu->isEmpty()) menu->addAction("There is no other outline yet")->setEnabled(false);
    menu->popup(at->mapToGlobal(QPoint(at->width() / 2, at->height() - 40)));
}

void OutlineEditor::copy_to(PartId part, StepId outline) {
    const Step* step = session_->project()->step(part, outline);
    if (!step || !draws(*step)) return;
    auto target = drawing_of(*step);
    if (!target) return say_wrong(target.error());
    std::set<DrawingId> elements;
    for (DrawingId id : selected_)
        if (drawing_.element(id)) elements.insert(id);
    if (elements.empty()) return session_->say("Choose what is to be copied first.", true);
    std::vector<DrawingId> added;
    Drawing next = copied_into(*target, drawing_, elements, Vec2::Zero(), &added);
    auto sizes = dimension_values(next, values());
    auto solved = sizes ? solve(next, *sizes) : pass_on(sizes);
    if (!solved) return say_wrong(solved.error());
    Edit edit(SetDrawing{part, outline, *solved});
    edit.sentence = "Copied " + std::to_string(elements.size()) + " elements into another outline";
    if (!session_->document().edit(edit)) session_->say("Copied. Open that outline to place it.");
}

/// What grows from closed regions, as the kinds of steps declare it.
void OutlineEditor::add_growing_offers(std::vector<Offer>& offers, size_t most) {
    std::vector<std::pair<const StepKind*, const StepOffer*>> found = step_offers(Chosen::Region);
    for (size_t i = 0; i < found.size() && i < most; ++i) {
        auto [kind, offer] = found[i];
        offers.push_back({offer_words(*kind, *offer),
                          [this, kind = kind, fields = offer->fields] { make_solid(*kind, fields); },
                          QString::fromStdString(offer->hint)});
    }
}

void OutlineEditor::add_region_offers(std::vector<Offer>& offers) {
    if (for_step_)
        offers.push_back({"Use these",
                          [this] {
                              std::vector<RegionChoice> choices;
                              for (size_t i : regions_) choices.push_back(choice_of(shape_->arrangement.regions[i]));
                              const Step* waiting = session_->project()->step(part_, for_step_);
                              const StepKind* kind = waiting ? find_step_kind(waiting->kind) : nullptr;
                              const StepField* field = kind ? kind->field_of(FieldKind::Regions) : nullptr;
                              if (!field) return;
                              SetField set{part_, for_step_, field->name, choices_text(choices)};
                              close();
                              session_->document().edit(set);
                          },
                          "for the step that was waiting"});
    add_growing_offers(offers, 100);
    offers.push_back({"Offset",
                      [this] {
                          open_box(
                              QPointF(view_->width() / 2.0, 80), "", "distance, negative inward",
                              [this](const QString& t) { offset_selected(t.toStdString()); }, QuantityKind::Length);
                      },
                      "a line inside or outside it, for a wall or a pocket"});
}

std::vector<Offer> OutlineEditor::offers() {
    std::vector<Offer> list;
    if (!regions_.empty())
        add_region_offers(list);
    else if (!selected_.empty()) {
        add_constraint_offers(list);
        add_element_offers(list);
    } else {
        add_tool_offers(list);
    }
    return list;
}

QString OutlineEditor::words() const {
    if (!regions_.empty()) {
        double area = 0;
        for (size_t i : regions_) area += shape_->arrangement.regions[i].area_mm2;
        return as_shown(counted(regions_.size(), "region", "regions") + " · " + format_number(area, 1) + " mm²");
    }
    if (selected_.size() == 1) {
        DrawingId id = *selected_.begin();
        QString what = QString::fromStdString(element_words(drawing_, id));
        if (shape_ && shape_->freedom.of.count(id)) {
            int ways = shape_->freedom.of.at(id);
            what += ways == 0 ? " · held" : QString(" · %1 free").arg(ways);
        }
        return what;
    }
    if (selected_.size() > 1) return QString("%1 things").arg(selected_.size());
    if (const NamedTool* t = tool_named(tool_)) return QString("%1: %2").arg(t->words, t->hint);
    if (shape_) {
        int free = shape_->freedom.total;
        return drawing_.elements.empty() ? QString("draw something")
               : free == 0               ? QString("outline · all held")
                                         : QString("outline · %1 free").arg(free);
    }
    return "outline";
}

} // namespace lp
