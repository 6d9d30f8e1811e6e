// All that can be done, from what kinds of steps declare and what the window itself does.
#include "app/offers/offers_bar.h"
#include "app/offers/selection_fields.h"
#include "app/outline/outline_editor.h"
#include "app/sheet/build_sheet.h"
#include "app/units.h"
#include "base/text.h"
#include <QMenu>
#include <set>

namespace lp {
namespace {

ActGroup group_of(const StepKind& kind, const StepOffer& offer) {
    const StepField* does = kind.field_as(FieldRole::Does);
    auto cuts = offer.fields.find(does ? does->name : std::string());
    if (cuts != offer.fields.end() && cuts->second == operation_name(Operation::Cut)) return ActGroup::TakeAway;
    if (kind.takes_away) return ActGroup::TakeAway;
    switch (kind.group) {
    case StepGroup::Solids:
    case StepGroup::Outlines:
        return ActGroup::Add;
    case StepGroup::Edges:
        return ActGroup::Edges;
    case StepGroup::Placing:
        return ActGroup::Placing;
    case StepGroup::Splitting:
    case StepGroup::Bending:
        return ActGroup::Splitting;
    case StepGroup::Fits:
        return ActGroup::Fits;
    case StepGroup::Meshes:
        return ActGroup::Meshes;
    }
    return ActGroup::Add;
}

QString needs_of(Chosen when) {
    switch (when) {
    case Chosen::Nothing:
        return {};
    case Chosen::Face:
        return "choose a face";
    case Chosen::Faces:
        return "choose faces";
    case Chosen::Edge:
        return "choose an edge";
    case Chosen::Edges:
        return "choose edges";
    case Chosen::Body:
        return "choose a part";
    case Chosen::Body2:
        return "choose a part of two bodies";
    case Chosen::TwoThings:
        return "choose things of two bodies";
    case Chosen::TwoFaces:
        return "choose faces of two bodies";
    case Chosen::TwoParts:
        return "choose two parts";
    case Chosen::Region:
        return "draw an outline first";
    }
    return {};
}

} // namespace

/// Whether what is chosen is what an offer is made for.
bool OffersBar::is_chosen(Chosen when) const {
    const auto& picks = session_->workspace().selection();
    auto all = [&](Pick::Kind kind) {
        return !picks.empty() && std::all_of(picks.begin(), picks.end(), [&](const Pick& p) { return p.kind == kind; });
    };
    PartPtr part = session_->project()->part(session_->workspace().active_part());
    const auto* bodies = part ? session_->results().bodies_of(part->id) : nullptr;
    switch (when) {
    case Chosen::Nothing:
        return true;
    case Chosen::Face:
        return picks.size() == 1 && all(Pick::Kind::Face);
    case Chosen::Faces:
        return all(Pick::Kind::Face);
    case Chosen::Edge:
        return picks.size() == 1 && all(Pick::Kind::Edge);
    case Chosen::Edges:
        return all(Pick::Kind::Edge);
    case Chosen::Body:
        return bodies && !bodies->empty();
    case Chosen::Body2:
        return bodies && bodies->size() > 1;
    case Chosen::TwoThings:
    case Chosen::TwoFaces:
        return picks.size() == 2 && picks[0].part == picks[1].part && picks[0].body != picks[1].body &&
               (when == Chosen::TwoThings || all(Pick::Kind::Face));
    case Chosen::TwoParts:
        return picks.size() == 2 && picks[0].part != picks[1].part;
    case Chosen::Region:
        return part && std::any_of(part->steps.begin(), part->steps.end(), [](const Step& s) {
                   const StepKind* kind = find_step_kind(s.kind);
                   return kind && kind->draws();
               });
    }
    return false;
}

/// Words of a choice, "let in", at the beginning of the rest; how many there are of the longest, 0 for none.
static qsizetype words_of_choice(const QStringList& words, qsizetype at, const StepKind& kind,
                                 std::map<std::string, std::string>& fields) {
    for (qsizetype n = std::min<qsizetype>(4, words.size() - at); n > 0; --n) {
        const std::string text = words.mid(at, n).join(' ').toStdString();
        bool taken = false;
        for (const StepField& field : kind.fields)
            if (field.kind == FieldKind::Choice &&
                std::find(field.choices.begin(), field.choices.end(), text) != field.choices.end()) {
                fields[field.name] = text;
                taken = true;
            }
        if (taken) return n;
    }
    return 0;
}

/// The quantity that is called so, "diameter", "at_x"; its number in the list of fields.
static std::optional<size_t> quantity_called(const StepKind& kind, const QString& word) {
    for (size_t i = 0; i < kind.fields.size(); ++i)
        if (is_quantity(kind.fields[i].kind) && word == QString::fromStdString(kind.fields[i].name)) return i;
    return std::nullopt;
}

/// Fields of a kind filled in by typed words: numbers in their order or behind their names, choices where they are one.
Expected<std::map<std::string, std::string>> OffersBar::filled_in(const StepKind& kind, const QStringList& words,
                                                                  std::map<std::string, std::string> fields) const {
    const std::map<std::string, std::string> given = fields;
    size_t next = 0;
    for (qsizetype i = 0; i < words.size(); ++i) {
        if (const qsizetype taken = words_of_choice(words, i, kind, fields)) {
            i += taken - 1;
            continue;
        }
        if (const auto named = quantity_called(kind, words[i]); named && i + 1 < words.size()) {
            next = *named;
            ++i;
        }
        std::string text = words[i].toStdString();
        if (find_unit(text) && fields != given) continue; // "6 mm" in two words
        while (next < kind.fields.size() && !is_quantity(kind.fields[next].kind)) ++next;
        if (next == kind.fields.size())
            return problem(ProblemCode::Wording,
                           quoted_start(text) + " is one word too many for a " + kind.title + ".");
        const StepField& field = kind.fields[next];
        const bool unit_follows = i + 1 < words.size() && find_unit(words[i + 1].toStdString());
        if (is_quantity(field.kind) && !unit_follows)
            text = as_typed(words[i], quantity_of(field.kind), session_->results().values()).toStdString();
        else if (unit_follows)
            text = (words[i] + " " + words[i + 1]).toStdString();
        auto value = number_in_field(field, text, session_->results().values());
        if (!value) return pass_on(value);
        fields[kind.fields[next++].name] = text;
    }
    return fields;
}

std::optional<QString> OffersBar::add_filled_in(const StepKind& kind, const QStringList& numbers,
                                                std::map<std::string, std::string> fields) {
    // What was chosen decides on the part only where it says something.
    const auto& picks = session_->workspace().selection();
    const bool of_picks = !fields.empty() && !picks.empty();
    const PartId host = of_picks ? picks.front().part : part_to_build();
    for (const StepField& field : kind.fields) // where there is one other part only, it is meant
        if (field.filler == Filler::OtherPart && !fields.count(field.name) && session_->project()->parts.size() == 2)
            for (const PartPtr& part : session_->project()->parts)
                if (part->id != host) fields[field.name] = part->name;
    auto filled = filled_in(kind, numbers, std::move(fields));
    if (!filled) return QString::fromStdString(filled.error().text());
    add_step(session_, host, kind.id, *filled, !numbers.isEmpty());
    if (PartPtr part = session_->project()->part(session_->workspace().active_part()); kind.draws() && part)
        session_->draw_outline(part->id, part->steps.back().id);
    return std::nullopt;
}

/// What kinds of steps do: each under every name it is offered by.
void OffersBar::add_step_acts(std::vector<Act>& acts) {
    static const StepOffer usual;
    const auto& picks = session_->workspace().selection();
    for (const StepKind& kind : step_kinds()) {
        if (kind.id == "brush_face") continue; // the brush makes it: add_bed_acts()
        std::map<QString, size_t> listed;      // by name
        auto list = [&](const StepOffer& offer, Chosen when) {
            Act act;
            act.words = offer_words(kind, offer);
            if (act.words.contains('{')) act.words = QString::fromStdString(kind.title); // of two parts that are chosen
            const bool fits = is_chosen(when) && (when == Chosen::Nothing || picks.empty() || suits(kind, offer));
            auto before = listed.find(act.words);
            if (before != listed.end() && (acts[before->second].fits() || !fits)) return;
            act.group = group_of(kind, offer);
            act.id = QString::fromStdString(offer.drawing.empty() ? kind.id : offer.drawing);
            act.line = QString::fromStdString(offer.fields.empty() || offer.hint.empty() ? kind.purpose : offer.hint);
            for (const std::string& word : kind.synonyms) act.synonyms << QString::fromStdString(word);
            if (!fits) act.needs = needs_of(when);
            const bool of_bodies = when == Chosen::Body || when == Chosen::Body2;
            const bool whole = !picks.empty() && picks.front().kind == Pick::Kind::Body;
            act.for_selection = fits && when != Chosen::Nothing && when != Chosen::Region && of_bodies == whole;
            act.for_part = fits && of_bodies && !whole;
            act.run = [this, &kind, offer, fits, when](const QStringList& numbers) -> std::optional<QString> {
                const auto picks = session_->workspace().selection();
                if (numbers.isEmpty() && (kind.asks_for_file || kind.draws())) {
                    take_offer(kind, offer, picks.empty() ? session_->workspace().active_part() : picks.front().part);
                    return std::nullopt;
                }
                auto fields = fields_of_offer(kind, offer);
                if (when == Chosen::TwoParts && fits) return add_between(kind, numbers, std::move(fields));
                return add_filled_in(kind, numbers, std::move(fields));
            };
            if (before != listed.end()) {
                acts[before->second] = std::move(act);
            } else {
                listed[act.words] = acts.size();
                acts.push_back(std::move(act));
            }
        };
        for (const StepOffer& offer : kind.offers) list(offer, offer.when);
        // What works on bodies needs some; the others begin with nothing.
        const bool on_bodies = kind.field_of(FieldKind::Bodies) || kind.field_of(FieldKind::Steps);
        if (kind.offers.empty()) list(usual, on_bodies ? Chosen::Body : Chosen::Nothing);
    }
}

std::optional<QString> OffersBar::add_between(const StepKind& kind, const QStringList& numbers,
                                              std::map<std::string, std::string> fields) {
    const auto& picks = session_->workspace().selection();
    PartPtr host = session_->project()->part(picks[0].part), other = session_->project()->part(picks[1].part);
    if (host && host->stand_in) std::swap(host, other); // nothing is cut out of a bought thing
    if (!host || !other || host->stand_in) return "Choose a printed part and what goes into it.";
    for (const StepField& field : kind.fields)
        if (field.filler == Filler::OtherPart) fields[field.name] = other->name;
    auto filled = filled_in(kind, numbers, std::move(fields));
    if (!filled) return QString::fromStdString(filled.error().text());
    add_step(session_, host->id, kind.id, *filled, !numbers.isEmpty());
    return std::nullopt;
}

/// Has a menu of its own below that of a face, which would be taller than the screen.
static bool is_joint(const Act& act) {
    return act.group == ActGroup::Fits || act.id == "living_hinge" || act.id == "screw_joint";
}

void OffersBar::open_menu(const QPoint& global) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setObjectName("view-menu");
    std::set<QString> listed; // words, and the drawings of kinds: one name of a kind is enough
    const auto acts = outline_ && outline_->active() ? std::vector<Act>() : all_acts();
    for (const Offer& offer : offers_) {
        if (offer.words == "More …") continue; // what it leads to stands below
        listed.insert(offer.words);
        for (const Act& act : acts)
            if (act.words == offer.words) listed.insert(act.id);
        // Queued: the menu is gone before a dialog runs its own loop.
        connect(
            menu->addAction(offer.words), &QAction::triggered, this, [run = offer.run] { run(); },
            Qt::QueuedConnection);
    }
    menu->addSeparator();
    auto add = [&](QMenu* to, const Act& act) {
        if (!listed.insert(act.words).second || !listed.insert(act.id).second) return;
        connect(to->addAction(act.words), &QAction::triggered, this, [this, run = act.run] {
            if (auto wrong = run({})) session_->say(*wrong, true);
        });
    };
    QMenu* bed = has_selection() && !acts.empty() ? new QMenu("On the bed", menu) : nullptr;
    QMenu* joints = bed ? new QMenu(group_words(ActGroup::Fits), menu) : nullptr;
    for (const Act& act : acts) {
        if (!act.for_selection || !bed) continue;
        if (act.group != ActGroup::Bed)
            add(is_joint(act) ? joints : menu, act);
        else if (act.needs.isEmpty() && !listed.count(act.words))
            connect(bed->addAction(act.words), &QAction::triggered, this, [this, run = act.run] {
                if (auto wrong = run({})) session_->say(*wrong, true);
            });
    }
    for (QMenu* more : {joints, bed})
        if (more && more->isEmpty())
            delete more;
        else if (more)
            menu->addMenu(more);
    QMenu* part = has_selection() && !acts.empty() ? menu->addMenu("The whole part") : nullptr;
    for (const Act& act : acts)
        if (part && act.for_part) add(part, act);
    if (part && part->isEmpty()) delete part;
    menu->addSeparator();
    connect(menu->addAction("All that can be done …"), &QAction::triggered, this, &OffersBar::open_panel);
    menu->popup(global);
}

bool OffersBar::begins_with(const Act& act) const {
    if (outline_ && outline_->active()) return act.of_drawing;
    return has_selection() ? act.for_selection || act.for_part
                           : act.group == ActGroup::Add || act.group == ActGroup::Letters;
}

std::vector<Act> OffersBar::all_acts() {
    std::vector<Act> acts;
    if (outline_ && outline_->active()) add_drawing_acts(acts);
    add_step_acts(acts);
    add_window_acts(acts);
    add_file_acts(acts);
    return acts;
}

} // namespace lp
