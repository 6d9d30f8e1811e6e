// The typed line while drawing: tools with places, constraints with values, offsets, repeats and copies.
#include "app/offers/selection_fields.h"
#include "app/outline/drawing_words.h"
#include "app/outline/outline_editor.h"
#include "app/units.h"
#include <QRegularExpression>

namespace lp {

std::optional<QString> OutlineEditor::do_line(const QString& raw) {
    QString line = raw.trimmed();
    if (!active() || line.isEmpty()) return std::nullopt;
    auto starts = [&](const char* words) { return line_begins(line, words); };
    if (starts("offset")) {
        offset_selected(as_typed(line.mid(6).trimmed(), QuantityKind::Length, values()).toStdString());
        return QString();
    }
    if (starts("sides")) {
        sides_ = std::clamp(line.mid(5).trimmed().toInt(), 3, 60);
        return QString();
    }
    if (starts("repeat")) return do_repeat_line(line);
    if (const NamedTool* tool = longest_named(named_tools(), line)) {
        set_tool(tool->tool);
        return do_places(line.mid(int(qstrlen(tool->words))), QString(tool->words).toLower());
    }
    if (const NamedConstraint* constraint = longest_named(named_constraints(), line)) {
        const QString value = line.mid(int(qstrlen(constraint->words))).trimmed();
        constrain_selected(
            constraint->kind,
            (is_dimension(constraint->kind) ? as_typed(value, quantity_of(constraint->kind), values()) : value)
                .toStdString());
        return QString();
    }
    if (starts("copy to")) return do_copy_line(line.mid(7).trimmed());
    if (starts("silhouette")) {
        take_silhouette();
        return QString();
    }
    // What grows from the drawing, by its words.
    for (auto [kind, offer] : step_offers(Chosen::Region))
        if (line.compare(offer_words(*kind, *offer), Qt::CaseInsensitive) == 0) {
            make_solid(*kind, offer->fields);
            return QString();
        }
    if (starts("done")) {
        close();
        return QString();
    }
    return std::nullopt;
}

/// repeat 4 by 10 0 | repeat 6 round
QString OutlineEditor::do_repeat_line(const QString& line) {
    QStringList w = line.split(' ', Qt::SkipEmptyParts);
    std::set<DrawingId> elements;
    for (DrawingId id : selected_)
        if (drawing_.element(id)) elements.insert(id);
    if (elements.empty()) return "Choose what is to be repeated first.";
    int count = w.size() > 1 ? w[1].toInt() : 0;
    Expected<Drawing> next =
        problem(ProblemCode::Wording, "That is no repeat.", "Write repeat 4 by 10 0, or repeat 6 round.");
    if (w.size() >= 4 && w[2] == "by")
        next = repeat_along(drawing_, elements,
                            shown_unit_mm() * Vec2(w[3].toDouble(), w.size() > 4 ? w[4].toDouble() : 0), count);
    if (w.size() >= 3 && w[2] == "round")
        next = repeat_round(drawing_, elements, {0, 0}, w.size() > 3 ? w[3].toDouble() : 360, count);
    if (!next) return QString::fromStdString(next.error().text());
    commit(*next, QString("Repeated %1 times").arg(count));
    return {};
}

/// Places after a tool's name are clicked one after the other.
QString OutlineEditor::do_places(const QString& places, const QString& tool) {
    QStringList numbers = places.split(QRegularExpression("[ ,;]+"), Qt::SkipEmptyParts);
    if (numbers.size() % 2) return QString("Places come as two numbers each, such as %1 0 0 40 20.").arg(tool);
    for (int i = 0; i + 1 < numbers.size(); i += 2) {
        auto length = [&](const QString& text) {
            return evaluate_expression(as_typed(text, QuantityKind::Length, values()).toStdString(),
                                       QuantityKind::Length, values());
        };
        auto x = length(numbers[i]), y = length(numbers[i + 1]);
        if (!x || !y) return QString::fromStdString((x ? y : x).error().text());
        click(snap_typed({*x, *y}));
    }
    if (!numbers.isEmpty() && !box_) set_tool(DrawTool::Select); // words are still asked for
    return {};
}

/// A typed place on a point or line is held there as a clicked one is.
Snap OutlineEditor::snap_typed(const Vec2& at) const {
    Snap s;
    s.at = at;
    for (const auto& [id, p] : drawing_.points)
        if ((p - s.at).norm() < 1e-6) s.point = id;
    if (s.at.norm() < 1e-6) s.point = origin_id;
    for (const Element& e : drawing_.elements)
        if (!s.point && !s.element &&
            (e.kind == ElementKind::Line || e.kind == ElementKind::Arc || e.kind == ElementKind::Circle))
            if (auto curves = element_curves(drawing_, e, {});
                curves && distance_to({curves->front().curve}, s.at) < 1e-6)
                s.element = e.id;
    if (!clicks_.empty()) {
        s.level = std::fabs(clicks_.back().at.y() - s.at.y()) < 1e-9;
        s.upright = std::fabs(clicks_.back().at.x() - s.at.x()) < 1e-9;
    }
    return s;
}

QString OutlineEditor::do_copy_line(const QString& name) {
    for (const PartPtr& part : session_->project()->parts)
        for (size_t i = 0; i < part->steps.size(); ++i) {
            const Step& s = part->steps[i];
            if (!draws(s) || s.id == step_) continue;
            if (QString::fromStdString(s.name).compare(name, Qt::CaseInsensitive) == 0 ||
                (part->id == part_ && name == QString("step %1").arg(i + 1))) {
                copy_to(part->id, s.id);
                return {};
            }
        }
    return "There is no other outline called \"" + name + "\".";
}

} // namespace lp
