// Offers for working a solid: what edges, faces and bodies that are chosen can become.
#include "app/offers/offers_bar.h"
#include "app/offers/selection_fields.h"
#include "app/sheet/build_sheet.h"
#include <QMenu>

namespace lp {

namespace {

bool all_are(const std::vector<Pick>& picks, Pick::Kind kind) {
    return !picks.empty() && std::all_of(picks.begin(), picks.end(), [&](const Pick& p) {
        return p.kind == kind && p.part == picks.front().part && p.body == picks.front().body;
    });
}

std::string joined(const std::vector<std::string>& texts) {
    std::string all;
    for (const std::string& text : texts) all += (all.empty() ? "" : ";") + text;
    return all;
}

} // namespace

std::vector<std::string> chosen_edges(const Session& session) {
    std::vector<std::string> texts;
    for (const Pick& pick : session.selection())
        if (const Body* body = pick.kind == Pick::Kind::Edge ? session.body_of(pick) : nullptr;
            body && body->is_exact())
            texts.push_back(reference_text(make_edge_reference(*body, pick.index, pick.point)));
    return texts;
}

std::vector<std::string> chosen_faces(const Session& session) {
    std::vector<std::string> texts;
    for (const Pick& pick : session.selection())
        if (const Body* body = pick.kind == Pick::Kind::Face ? session.body_of(pick) : nullptr)
            texts.push_back(reference_text(make_reference(*body, pick.index, pick.point)));
    return texts;
}

std::map<std::string, std::string> fields_from_selection(const Session& session, const StepKind& kind) {
    std::map<std::string, std::string> fields;
    auto edges = chosen_edges(session), faces = chosen_faces(session);
    size_t next_face = 0;
    for (const StepField& field : kind.fields) {
        if (field.kind == FieldKind::Edges && !edges.empty()) fields[field.name] = joined(edges);
        if (field.kind == FieldKind::Edges && edges.empty() && !faces.empty()) {
            std::vector<std::string> of;
            for (const std::string& face : faces) of.push_back("of " + face);
            fields[field.name] = joined(of);
        }
        bool first = field.name == "faces" || field.name == "open";
        if (field.kind == FieldKind::Faces && first && !faces.empty()) fields[field.name] = joined(faces);
        if (field.kind == FieldKind::Face && next_face < faces.size()) fields[field.name] = faces[next_face++];
        // A plane to mirror in or part at; a neutral plane or a place to stand on is chosen in the sentence.
        if (field.kind == FieldKind::Plane && (field.name == "in" || field.name == "by") && !faces.empty())
            fields[field.name] = faces.back();
    }
    return fields;
}

void OffersBar::offer_step(const char* id, const QString& words, std::map<std::string, std::string> more) {
    const StepKind* kind = find_step_kind(id);
    uint64_t part = session_->selection().empty() ? session_->active_part() : session_->selection().front().part;
    offers_.push_back({words.isEmpty() ? QString::fromStdString(kind->title) : words,
                       [this, kind, part, more] {
                           auto fields = fields_from_selection(*session_, *kind);
                           for (const auto& [name, text] : more) fields[name] = text;
                           add_step(session_, part, kind->id, fields);
                       },
                       QString::fromStdString(kind->purpose)});
}

/// Edges that go on from the chosen ones round a face, or without a corner.
void OffersBar::extend_edges(bool round_the_face) {
    const auto picks = session_->selection();
    const Pick& last = picks.back();
    const Tessellation* t = session_->tessellation_of(last);
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
        if (!there) session_->select(pick, true);
    }
}

void choose_faces_of_step(Session& session, uint64_t part, uint64_t step) {
    std::vector<Pick> picks;
    const auto* bodies = session.bodies_of(part);
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
    session.select_all(picks);
}

/// Faces that go on from the chosen one without an edge one could feel: their normals agree along what they share.
void OffersBar::extend_faces() {
    const Pick first = session_->selection().back();
    const Tessellation* t = session_->tessellation_of(first);
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
    session_->select_all(picks);
}

bool OffersBar::offer_for_edges() {
    const auto& picks = session_->selection();
    if (!all_are(picks, Pick::Kind::Edge)) return false;
    const Body* body = session_->body_of(picks[0]);
    double length = 0;
    for (const Pick& pick : picks)
        if (const EdgeInfo* edge = session_->edge_of(pick)) length += edge->length_mm;
    label_->setText(picks.size() == 1   ? describe_pick(*session_, picks[0])
                    : picks.size() == 2 ? selection_words(*session_)
                                        : QString("%1 edges, %2 mm together")
                                              .arg(picks.size())
                                              .arg(QString::fromStdString(format_number(length, 1))));
    if (body && body->is_exact()) {
        offer_step("fillet");
        offer_step("chamfer");
        offers_.push_back({"Round the face", [this] { extend_edges(true); }, "Takes all edges of the face beside it"});
        offers_.push_back({"Run on", [this] { extend_edges(false); }, "Takes the edges that go on without a corner"});
        if (picks.size() == 1) offer_step("gusset");
    }
    offer_to_keep_measure();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings it close"});
    return true;
}

/// Faces of one body, several: what one step does to them.
bool OffersBar::offer_for_faces() {
    const auto& picks = session_->selection();
    if (picks.size() < 2 || !all_are(picks, Pick::Kind::Face)) return false;
    const Body* body = session_->body_of(picks[0]);
    if (!body || !body->is_exact()) return false;
    label_->setText(picks.size() == 2 ? selection_words(*session_) : QString("%1 faces").arg(picks.size()));
    offer_step("shell", "Shell, open here");
    offer_step("fillet", "Fillet their edges");
    offer_step("draft");
    offer_step("push", "Push");
    offer_step("remove_faces");
    offer_step("chamfer", "Chamfer their edges");
    offer_to_keep_measure();
    offers_.push_back({"Fit view", [this] { emit fit_view_wanted(); }, "Brings them close"});
    return true;
}

void OffersBar::offer_more_for_face() {
    offers_.push_back(
        {"More …",
         [this] {
             auto* menu = new QMenu(this);
             menu->setAttribute(Qt::WA_DeleteOnClose);
             uint64_t part = session_->selection().front().part;
             for (const char* id :
                  {"chamfer", "full_round", "draft", "remove_faces", "split", "mirror", "widen", "seat"}) {
                 const StepKind* kind = find_step_kind(id);
                 connect(menu->addAction(QString::fromStdString(kind->title + " – " + kind->purpose)),
                         &QAction::triggered, this, [this, kind, part] {
                             add_step(session_, part, kind->id, fields_from_selection(*session_, *kind));
                         });
             }
             menu->addSeparator();
             connect(menu->addAction("Keep the wall measured at this place"), &QAction::triggered, this,
                     [this, pick = session_->selection().front()] {
                         session_->edit(AddMeasure{{0, session_->thing_of(pick), {}}});
                     });
             connect(menu->addAction("Take the faces that run on smoothly"), &QAction::triggered, this,
                     &OffersBar::extend_faces);
             const FaceInfo* face = session_->face_of(session_->selection().back());
             if (auto meaning = face ? tag_meaning(face->primary()) : std::nullopt)
                 connect(menu->addAction("Take all faces of its step"), &QAction::triggered, this,
                         [this, part, step = meaning->step] { choose_faces_of_step(*session_, part, step); });
             menu->popup(mapToGlobal(QPoint(width() / 2, 0)));
         },
         "Everything else a face can become"});
}

} // namespace lp
