// Offers for working a solid: what edges, faces and bodies that are chosen can become.
#include "app/offers/more_faces.h"
#include "app/offers/offers_bar.h"
#include "app/offers/selection_fields.h"
#include "app/sheet/build_sheet.h"
#include "base/text.h"
#include "shape/tags.h"
#include <QMenu>

namespace lp {

namespace {

bool all_are(const std::vector<Pick>& picks, Pick::Kind kind) {
    return !picks.empty() && std::all_of(picks.begin(), picks.end(), [&](const Pick& p) {
        return p.kind == kind && p.part == picks.front().part && p.body == picks.front().body;
    });
}

} // namespace

std::vector<std::string> chosen_edges(const Session& session) {
    std::vector<std::string> texts;
    for (const Pick& pick : session.workspace().selection())
        if (const Body* body = pick.kind == Pick::Kind::Edge ? session.results().body_of(pick) : nullptr;
            body && body->is_exact())
            texts.push_back(reference_text(make_edge_reference(*body, pick.index, pick.point)));
    return texts;
}

std::vector<std::string> chosen_faces(const Session& session) {
    std::vector<std::string> texts;
    for (const Pick& pick : session.workspace().selection())
        if (const Body* body = pick.kind == Pick::Kind::Face ? session.results().body_of(pick) : nullptr)
            texts.push_back(reference_text(make_reference(*body, pick.index, pick.point)));
    return texts;
}

std::map<std::string, std::string> fields_from_selection(const Session& session, const StepKind& kind) {
    std::map<std::string, std::string> fields;
    const auto edges = chosen_edges(session), faces = chosen_faces(session);
    const auto& picks = session.workspace().selection();
    size_t next_face = 0;
    auto thing = [&](size_t i) {
        return picks.size() == 2 ? session.results().thing_of(picks[i]).reference.text() : std::string();
    };
    for (const StepField& field : kind.fields) {
        std::string text;
        switch (field.filler) {
        case Filler::Edges: {
            std::vector<std::string> of;
            for (const std::string& face : faces) of.push_back("of " + face);
            text = joined(edges.empty() ? of : edges, ";");
            break;
        }
        case Filler::Faces:
            text = joined(faces, ";");
            break;
        case Filler::NextFace:
            if (next_face < faces.size()) text = faces[next_face++];
            break;
        case Filler::LastFace:
            if (!faces.empty()) text = faces.back();
            break;
        case Filler::FirstThing:
            text = thing(0);
            break;
        case Filler::SecondThing:
            text = thing(1);
            break;
        case Filler::Makers: {
            std::vector<std::string> of;
            for (const Pick& pick : picks) {
                const FaceInfo* face = session.results().face_of(pick);
                const auto meaning = face ? tag_meaning(face->primary()) : std::nullopt;
                const PartPtr part = session.project()->part(pick.part);
                const Step* step = meaning && part ? part->step(meaning->step) : nullptr;
                const std::string name = !step ? "" : step->name.empty() ? to_text(step->id) : step->name;
                if (!name.empty() && std::find(of.begin(), of.end(), name) == of.end()) of.push_back(name);
            }
            text = joined(of, ", ");
            break;
        }
        case Filler::OtherPart:
        case Filler::Nothing:
            break;
        }
        if (!text.empty()) fields[field.name] = text;
    }
    return fields;
}

std::vector<std::pair<const StepKind*, const StepOffer*>> step_offers(Chosen when, bool folded) {
    std::vector<std::pair<const StepKind*, const StepOffer*>> found;
    for (const StepKind& kind : step_kinds())
        for (const StepOffer& offer : kind.offers)
            if (offer.when == when && offer.folded == folded) found.emplace_back(&kind, &offer);
    std::stable_sort(found.begin(), found.end(),
                     [](const auto& a, const auto& b) { return a.second->place < b.second->place; });
    return found;
}

std::map<std::string, std::string> fields_on_face(const Session& session, const StepKind& kind, const Pick& pick,
                                                  std::map<std::string, std::string> fields) {
    const FaceInfo* face = session.results().face_of(pick);
    const Body* body = session.results().body_of(pick);
    if (!face || !body) return fields;
    auto set = [&](FieldRole role, const std::string& text) {
        if (const StepField* field = kind.field_as(role)) fields[field->name] = text;
    };
    auto mm = [](double v) { return format_quantity(v, QuantityKind::Length, 2); };
    const StepField* does = kind.field_as(FieldRole::Does);
    const bool cut = does && fields.count(does->name) && fields.at(does->name) == operation_name(Operation::Cut);
    FaceReference reference = make_reference(*body, pick.index, pick.point);
    auto frame = face_frame(*body, pick.index, reference.primary);
    if (frame && (body->is_exact() || !kind.field_as(FieldRole::Along))) {
        // On the face itself: it goes where the face goes. A cut starts a little above it and goes in.
        Vec3 at = frame->inverse() * pick.point;
        set(FieldRole::StandsOn, reference_text(reference));
        set(FieldRole::AtX, mm(at.x()));
        set(FieldRole::AtY, mm(at.y()));
        set(FieldRole::AtZ, cut ? "1 mm" : "0 mm");
        if (cut) set(FieldRole::Along, "-z");
        return fields;
    }
    // Points the way the face looks, by the nearest axis; a cut goes into the face, through its skin.
    Vec3 n = cut ? Vec3(-face->direction) : face->direction;
    int axis;
    n.cwiseAbs().maxCoeff(&axis);
    Vec3 at = pick.point - (cut ? n * 1.0 : Vec3(0, 0, 0));
    set(FieldRole::AtX, mm(at.x()));
    set(FieldRole::AtY, mm(at.y()));
    set(FieldRole::AtZ, mm(at.z()));
    set(FieldRole::Along, std::string(n[axis] < 0 ? "-" : "") + "xyz"[axis]);
    return fields;
}

QString offer_words(const StepKind& kind, const StepOffer& offer) {
    return QString::fromStdString(offer.words.empty() ? kind.title : offer.words);
}

/// Adds the offers of kinds of steps for what is chosen, those with places from `from` to before `to`.
void OffersBar::offer_steps(Chosen when, int from, int to) {
    PartId part = session_->workspace().selection().empty() ? session_->workspace().active_part()
                                                            : session_->workspace().selection().front().part;
    for (auto [kind, offer] : step_offers(when)) {
        if (offer->place < from || offer->place >= to || !suits(*kind, *offer)) continue;
        QString hint = QString::fromStdString(offer->hint.empty() ? kind->purpose : offer->hint);
        offers_.push_back({offer_words(*kind, *offer),
                           [this, kind = kind, offer = offer, part] { take_offer(*kind, *offer, part); }, hint});
    }
}

/// Whether what is chosen is of the sort an offer needs.
bool OffersBar::suits(const StepKind& kind, const StepOffer& offer) const {
    const auto& picks = session_->workspace().selection();
    if (picks.empty()) return true;
    const Body* body = session_->results().body_of(picks.front());
    const FaceInfo* face = session_->results().face_of(picks.front());
    if (kind.draws()) return face && face->kind == SurfaceKind::Plane && body && body->is_exact();
    if (offer.any_body) return true;
    PartPtr part = session_->project()->part(picks.front().part);
    bool exact = body && body->is_exact();
    if (offer.on_mesh) return body && !exact && session_->workspace().stretch() == Stretch::Shape;
    if (picks.front().kind != Pick::Kind::Face || picks.size() > 1) return exact; // edges, several faces
    return exact && part && !part->stand_in && session_->workspace().stretch() == Stretch::Shape;
}

void OffersBar::take_offer(const StepKind& kind, const StepOffer& offer, PartId part) {
    const auto picks = session_->workspace().selection();
    if (kind.asks_for_file) return emit bring_in_wanted();
    if (kind.draws()) {
        const FaceInfo* face = picks.empty() ? nullptr : session_->results().face_of(picks.front());
        if (!face || face->kind != SurfaceKind::Plane) return draw_on(part_to_build(), kind, {});
        const Body& body = *session_->results().body_of(picks.front());
        return draw_on(part, kind, reference_text(make_reference(body, picks[0].index, picks[0].point)));
    }
    add_step(session_, picks.empty() ? part_to_build() : part, kind.id, fields_of_offer(kind, offer));
}

/// What the selection fills in, and what the offer says besides.
std::map<std::string, std::string> OffersBar::fields_of_offer(const StepKind& kind, const StepOffer& offer) const {
    const auto& picks = session_->workspace().selection();
    if (picks.empty()) return offer.fields;
    auto fields = offer.stands_there ? fields_on_face(*session_, kind, picks.front(), offer.fields)
                                     : fields_from_selection(*session_, kind);
    for (const auto& [name, text] : offer.fields) fields[name] = text;
    return fields;
}

/// Edges that go on from the chosen ones round a face, or without a corner.
void OffersBar::extend_edges(bool round_the_face) {
    const auto picks = session_->workspace().selection();
    const Pick& last = picks.back();
    const Tessellation* t = session_->results().tessellation_of(last);
    if (!t) return;
    std::set<size_t> chosen{last.index};
    auto ends = [&](size_t e) { return std::array<Vec3, 2>{t->edges[e].points.front(), t->edges[e].points.back()}; };
    if (round_the_face) {
        for (size_t i = 0; i < t->edges.size(); ++i)
            if (t->edges[i].face_a == t->edges[last.index].face_a || t->edges[i].face_b == t->edges[last.index].face_a)
                chosen.insert(i);
    }
    auto way_out = [&](size_t e, const Vec3& end) { // direction in which the edge leaves at that end
        const auto& p = t->edges[e].points;
        return (p.front() - end).norm() < 1e-6 ? Vec3((p[0] - p[1]).normalized())
                                               : Vec3((p.back() - p[p.size() - 2]).normalized());
    };
    for (bool more = !round_the_face; more;) {
        more = false;
        for (size_t i = 0; i < t->edges.size(); ++i) {
            if (chosen.count(i)) continue;
            for (size_t e : std::set<size_t>(chosen))
                for (const Vec3& a : ends(e))
                    for (const Vec3& b : ends(i))
                        if ((a - b).norm() < 1e-6 && way_out(e, a).dot(way_out(i, b)) < -0.98)
                            more = chosen.insert(i).second || more;
        }
    }
    for (size_t i : chosen) {
        Pick pick = last;
        pick.index = i;
        pick.point = t->edges[i].points[t->edges[i].points.size() / 2];
        bool there = std::any_of(picks.begin(), picks.end(), [&](const Pick& p) { return p.same(pick); });
        if (!there) session_->workspace().select(pick, true);
    }
}

void choose_faces_of_step(Session& session, PartId part, StepId step) {
    std::vector<Pick> picks;
    const auto* bodies = session.results().bodies_of(part);
    for (size_t b = 0; bodies && b < bodies->size(); ++b) {
        const auto& faces = (*bodies)[b].body.tessellation().faces;
        for (size_t f = 0; f < faces.size(); ++f) {
            bool its = std::any_of(faces[f].tags.begin(), faces[f].tags.end(), [&](Tag tag) {
                auto meaning = tag_meaning(tag);
                return meaning && meaning->step == step;
            });
            if (its) picks.push_back({Pick::Kind::Face, part, b, f, faces[f].centre});
        }
    }
    if (picks.empty()) return session.say("Nothing is left of what this step made, or it made no faces.", true);
    session.workspace().select_all(picks);
}

/// Faces that go on from the chosen one without an edge one could feel: their normals agree along what they share.
void OffersBar::extend_faces() {
    const Pick first = session_->workspace().selection().back();
    const Tessellation* t = session_->results().tessellation_of(first);
    if (!t || first.kind != Pick::Kind::Face) return;
    // Normals of the facets at every edge of the body, by the vertices they share.
    std::map<std::pair<uint32_t, uint32_t>, std::vector<size_t>> sides;
    for (size_t i = 0; i < t->mesh.triangles.size(); ++i)
        for (size_t k = 0; k < 3; ++k)
            sides[std::minmax(t->mesh.triangles[i][k], t->mesh.triangles[i][(k + 1) % 3])].push_back(i);
    auto normal_at = [&](size_t triangle, uint32_t vertex) {
        for (size_t k = 0; k < 3; ++k)
            if (t->mesh.triangles[triangle][k] == vertex) return t->normals[triangle][k];
        return t->normals[triangle][0];
    };
    std::map<std::pair<uint32_t, uint32_t>, bool> smooth; // of two faces: all of their edge is
    for (const auto& [edge, triangles] : sides) {
        if (triangles.size() != 2 || t->face_of[triangles[0]] == t->face_of[triangles[1]]) continue;
        bool even = normal_at(triangles[0], edge.first).dot(normal_at(triangles[1], edge.first)) > 0.999;
        auto [at, fresh] = smooth.try_emplace(std::minmax(t->face_of[triangles[0]], t->face_of[triangles[1]]), even);
        if (!fresh) at->second = at->second && even;
    }
    std::set<uint32_t> chosen{uint32_t(first.index)};
    for (bool more = true; more;) {
        more = false;
        for (const auto& [pair, even] : smooth)
            if (even && chosen.count(pair.first) != chosen.count(pair.second)) {
                chosen.insert(pair.first);
                chosen.insert(pair.second);
                more = true;
            }
    }
    std::vector<Pick> picks;
    for (uint32_t f : chosen) picks.push_back({Pick::Kind::Face, first.part, first.body, f, t->faces[f].centre});
    session_->workspace().select_all(picks);
}

bool OffersBar::offer_for_edges() {
    const auto& picks = session_->workspace().selection();
    if (!all_are(picks, Pick::Kind::Edge)) return false;
    const Body* body = session_->results().body_of(picks[0]);
    double length = 0;
    for (const Pick& pick : picks)
        if (const EdgeInfo* edge = session_->results().edge_of(pick)) length += edge->length_mm;
    label_->setText(picks.size() == 1   ? describe_pick(*session_, picks[0])
                    : picks.size() == 2 ? selection_words(*session_)
                                        : as_shown(QString("%1 edges, %2 mm together")
                                                       .arg(picks.size())
                                                       .arg(QString::fromStdString(format_number(length, 1)))));
    offer_steps(Chosen::Edges, 0, 30);
    if (body && body->is_exact()) {
        offers_.push_back({"Round the face", [this] { extend_edges(true); }, "Takes all edges of the face beside it"});
        offers_.push_back({"Run on", [this] { extend_edges(false); }, "Takes the edges that go on without a corner"});
    }
    if (picks.size() == 1) offer_steps(Chosen::Edge, 0, 100);
    offer_to_keep_measure();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings it close"});
    return true;
}

/// Faces of one body, several: what one step does to them.
bool OffersBar::offer_for_faces() {
    const auto& picks = session_->workspace().selection();
    if (picks.size() < 2 || !all_are(picks, Pick::Kind::Face)) return false;
    const Body* body = session_->results().body_of(picks[0]);
    if (!body) return false;
    label_->setText(picks.size() == 2 ? selection_words(*session_) : QString("%1 faces").arg(picks.size()));
    offer_steps(Chosen::Faces, 0, 100);
    offer_more_faces();
    offer_to_keep_measure();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings them close"});
    return true;
}

namespace {

struct MoreWords {
    MoreFaces how;
    const char *words, *line;
};
constexpr MoreWords more_words[] = {
    {MoreFaces::Form, "The whole form", "Chooses every face of the round or flat form the chosen ones are pieces of."},
    {MoreFaces::Plane, "All in this plane", "Chooses every flat face in the plane of the chosen ones."},
    {MoreFaces::Beside, "What lies beside", "Chooses the faces round the chosen ones as well."},
    {MoreFaces::Piece, "The whole piece", "Chooses every face that hangs together with the chosen ones."}};

} // namespace

/// Faces of meshes are many: one click leads to those that belong together.
void OffersBar::offer_more_faces() {
    offers_.push_back({"Choose more …",
                       [this] {
                           auto* menu = new QMenu(this);
                           menu->setAttribute(Qt::WA_DeleteOnClose);
                           for (const MoreWords& more : more_words) // queued: forms are looked for in a loop of its own
                               connect(
                                   menu->addAction(QString("%1 – %2").arg(more.words, more.line)), &QAction::triggered,
                                   this,
                                   [this, how = more.how] {
                                       if (auto why = choose_more_faces(*session_, how)) session_->say(*why, true);
                                   },
                                   Qt::QueuedConnection);
                           menu->popup(mapToGlobal(QPoint(width() / 3, 0)));
                       },
                       "The whole form, its plane, what lies beside, the whole piece"});
}

void OffersBar::add_choosing_acts(std::vector<Act>& acts) {
    for (const MoreWords& more : more_words) {
        Act act{.group = ActGroup::Edges,
                .id = "choose_more",
                .words = more.words,
                .line = more.line,
                .synonyms = {"select", "choose", "grow", "more", "faces", "patch", "region"},
                .run = [this, how = more.how](const QStringList&) { return choose_more_faces(*session_, how); }};
        if (!is_chosen(Chosen::Faces)) act.needs = "choose a face";
        acts.push_back(std::move(act));
    }
}

void OffersBar::offer_more_for_face() {
    offers_.push_back(
        {"More …",
         [this] {
             auto* menu = new QMenu(this);
             menu->setAttribute(Qt::WA_DeleteOnClose);
             PartId part = session_->workspace().selection().front().part;
             for (auto [kind, offer] : step_offers(Chosen::Face, true))
                 connect(menu->addAction(QString::fromStdString(kind->title + " – " + kind->purpose)),
                         &QAction::triggered, this,
                         [this, kind = kind, offer = offer, part] { take_offer(*kind, *offer, part); });
             menu->addSeparator();
             connect(menu->addAction("Keep the wall measured at this place"), &QAction::triggered, this,
                     [this, pick = session_->workspace().selection().front()] {
                         session_->document().edit(AddMeasure{{{}, session_->results().thing_of(pick), {}}});
                     });
             connect(menu->addAction("Take the faces that run on smoothly"), &QAction::triggered, this,
                     &OffersBar::extend_faces);
             const FaceInfo* face = session_->results().face_of(session_->workspace().selection().back());
             if (auto meaning = face ? tag_meaning(face->primary()) : std::nullopt)
                 connect(menu->addAction("Take all faces of its step"), &QAction::triggered, this,
                         [this, part, step = meaning->step] { choose_faces_of_step(*session_, part, step); });
             menu->popup(mapToGlobal(QPoint(width() / 2, 0)));
         },
         "Everything else a face can become"});
}

} // namespace lp
