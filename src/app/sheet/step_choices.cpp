// The lists that words of a sentence open: choices, parts, fits, faces, edges, bodies, steps, outlines, regions.
#include "app/offers/selection_fields.h"
#include "app/sheet/step_row.h"
#include "app/sheet/step_words.h"
#include <QMenu>

namespace lp {

void StepRow::open_choices(ValueField* field, const StepField& what) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    std::string now = field_text(step_, what);
    auto offer = [&](const QString& shown, const std::string& value) {
        QAction* action = menu->addAction(shown);
        action->setCheckable(true);
        action->setChecked(value == now);
        connect(action, &QAction::triggered, this,
                [this, field, n = what.name, value] { submit(field, n, QString::fromStdString(value)); });
    };
    if (what.kind == FieldKind::Choice)
        for (const std::string& choice : what.choices) offer(choice_words(choice), choice);
    if (what.kind == FieldKind::Part)
        for (const PartPtr& part : session_->project()->parts)
            if (part->id != part_)
                offer(QString::fromStdString(part->name) + (part->stand_in ? ", stand-in" : ""), part->name);
    offer_geometry(menu, field, what);
    if (what.kind == FieldKind::Fit) {
        for (const NamedFit& fit : session_->project()->fits)
            offer(QString::fromStdString(fit.name) + "   " + as_shown(format_fixed(fit.gap_mm, 2) + " mm a face"),
                  fit.name);
        menu->addSeparator();
        connect(menu->addAction("A gap of its own …"), &QAction::triggered, this, [this, field] {
            field->set_check(
                [this](const QString& typed) { return explain_typed(*session_, typed, QuantityKind::Length); });
            field->begin_edit();
        });
    }
    menu->popup(field->mapToGlobal(QPoint(0, field->height())));
}

/// Planes, faces, outlines and regions: by name, or what is chosen in the view.
void StepRow::offer_geometry(QMenu* menu, ValueField* field, const StepField& what) {
    OfferValue offer = [this, menu, field, n = what.name](const QString& shown, const std::string& value) {
        connect(menu->addAction(shown), &QAction::triggered, this,
                [this, field, n, value] { submit(field, n, QString::fromStdString(value)); });
    };
    switch (what.kind) {
    case FieldKind::Plane:
    case FieldKind::Face:
        offer_face(menu, what, offer);
        break;
    case FieldKind::Faces:
    case FieldKind::Edges:
        offer_chosen(menu, what, offer);
        break;
    case FieldKind::Bodies:
        offer_bodies(what, offer);
        break;
    case FieldKind::Steps:
        offer_steps(what, offer);
        break;
    case FieldKind::Outline:
    case FieldKind::Outlines:
        offer_outlines(what, offer);
        break;
    case FieldKind::Regions:
        offer_regions(menu, offer);
        break;
    default:
        break;
    }
    if (what.kind >= FieldKind::Plane && what.kind != FieldKind::Drawing) {
        menu->addSeparator();
        connect(menu->addAction("Type it …"), &QAction::triggered, this, [field] { field->begin_edit(); });
    }
}

/// The outermost flat face in each of the six directions, as the part is shown: chosen without the pointer.
static std::vector<std::pair<QString, std::string>> outer_faces(const Session& session, PartId part) {
    static const std::pair<const char*, Vec3> directions[] = {
        {"The top face", Vec3::UnitZ()},  {"The bottom face", -Vec3::UnitZ()}, {"The front face", -Vec3::UnitY()},
        {"The back face", Vec3::UnitY()}, {"The left face", -Vec3::UnitX()},   {"The right face", Vec3::UnitX()}};
    std::vector<std::pair<QString, std::string>> found;
    const auto* bodies = session.results().bodies_of(part);
    if (!bodies || bodies->empty()) return found;
    const Body& body = bodies->front().body;
    const auto& faces = body.tessellation().faces;
    for (const auto& [words, direction] : directions) {
        const FaceInfo* best = nullptr;
        for (const FaceInfo& face : faces)
            if (face.kind == SurfaceKind::Plane && face.direction.dot(direction) > 1 - 1e-6 &&
                (!best || face.centre.dot(direction) > best->centre.dot(direction) + 1e-9))
                best = &face;
        if (best)
            found.emplace_back(words, reference_text(make_reference(body, size_t(best - faces.data()), best->centre)));
    }
    return found;
}

void StepRow::offer_face(QMenu* menu, const StepField& what, const OfferValue& offer) {
    if (what.kind == FieldKind::Plane)
        for (const char* plane : {"xy", "xz", "yz"})
            offer(field_words(*session_->project(), part_, what, plane), plane);
    const auto& picks = session_->workspace().selection();
    const Body* body = !picks.empty() && picks.back().kind == Pick::Kind::Face && picks.back().part == part_
                           ? session_->results().body_of(picks.back())
                           : nullptr;
    if (body) {
        FaceReference face = make_reference(*body, picks.back().index, picks.back().point);
        offer("The chosen face: " + QString::fromStdString(tag_words(face.primary)), reference_text(face));
    } else {
        menu->addAction("Choose a face in the view first")->setEnabled(false);
    }
    for (const auto& [words, reference] : outer_faces(*session_, part_)) offer(words, reference);
}

void StepRow::offer_chosen(QMenu* menu, const StepField& what, const OfferValue& offer) {
    bool edges = what.kind == FieldKind::Edges;
    std::string chosen;
    auto texts = edges ? chosen_edges(*session_) : chosen_faces(*session_);
    for (const std::string& text : texts) chosen += (chosen.empty() ? "" : ";") + text;
    std::string now = field_text(step_, what);
    if (!chosen.empty()) {
        QString count =
            QString("%1 chosen %2%3").arg(texts.size()).arg(edges ? "edge" : "face", texts.size() == 1 ? "" : "s");
        offer("Take the " + count, chosen);
        if (!now.empty()) offer("Add the " + count, now + ";" + chosen);
    } else {
        menu->addAction(edges ? "Choose edges in the view first" : "Choose faces in the view first")->setEnabled(false);
    }
    if (edges)
        for (const char* words : {"all", "upright"})
            offer(field_words(*session_->project(), part_, what, words), words);
    if (!edges)
        for (const auto& [words, reference] : outer_faces(*session_, part_)) offer(words, reference);
    if (!edges && !now.empty()) offer("None", "");
}

void StepRow::offer_bodies(const StepField& what, const OfferValue& offer) {
    std::string now = field_text(step_, what);
    offer("All of them", "all");
    for (const std::string& word : what.choices) offer("The " + QString::fromStdString(word), word);
    if (const Evaluation* evaluation = session_->results().evaluation())
        if (const PartResult* result = evaluation->part(part_))
            for (const StepBody& body : result->bodies) {
                std::string id = body.called();
                QString shown = field_words(*session_->project(), part_, what, id);
                offer(shown, id);
                bool names = !now.empty() && now != "all" && !std::count(what.choices.begin(), what.choices.end(), now);
                if (names) offer("And " + shown, now + ", " + id);
            }
}

void StepRow::offer_steps(const StepField& what, const OfferValue& offer) {
    PartPtr part = session_->project()->part(part_);
    std::string now = field_text(step_, what);
    offer("Whole bodies", "");
    for (size_t i = 0; part && i < part->steps.size() && part->steps[i].id != step_.id; ++i) {
        const Step& s = part->steps[i];
        const StepKind* kind = find_step_kind(s.kind);
        if (!kind || !kind->repeatable) continue;
        std::string id = s.name.empty() ? to_text(s.id) : s.name;
        QString shown = field_words(*session_->project(), part_, what, id);
        offer(shown, id);
        if (!now.empty()) offer("And " + shown, now + ", " + id);
    }
}

void StepRow::offer_outlines(const StepField& what, const OfferValue& offer) {
    PartPtr part = session_->project()->part(part_);
    for (size_t i = 0; part && i < part->steps.size(); ++i) {
        const Step& s = part->steps[i];
        if (s.id == step_.id) break;
        const StepKind* kind = find_step_kind(s.kind);
        if (!kind || !kind->draws()) continue;
        std::string id = to_text(s.id), now = field_text(step_, what);
        QString shown = s.name.empty() ? QString("The outline of step %1").arg(i + 1) : QString::fromStdString(s.name);
        if (what.kind == FieldKind::Outline)
            offer(shown, id);
        else
            offer("Add " + shown, now.empty() ? id : now + ", " + id);
    }
    if (what.kind == FieldKind::Outlines && !field_text(step_, what).empty()) offer("Begin anew", "");
}

void StepRow::offer_regions(QMenu* menu, const OfferValue& offer) {
    offer("All that are filled", "all");
    offer("Every closed region", "every");
    connect(menu->addAction("Choose them in the view"), &QAction::triggered, this, [this] {
        PartPtr part = session_->project()->part(part_);
        const StepField* of = find_step_kind(step_.kind)->field_of(FieldKind::Outline);
        std::string name = of ? field_text(step_, *of) : std::string();
        StepId outline;
        for (size_t i = 0; part && i < part->steps.size() && part->steps[i].id != step_.id; ++i) {
            const Step& s = part->steps[i];
            const StepKind* kind = find_step_kind(s.kind);
            if (kind && kind->draws() && (name.empty() || step_called(*part, name) == &s)) outline = s.id;
        }
        if (outline) session_->choose_regions(part_, outline, step_.id);
    });
}

} // namespace lp
