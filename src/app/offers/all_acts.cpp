// All that can be done, from what kinds of steps declare and what the window itself does.
#include "app/bed_stands.h"
#include "app/bodies_apart.h"
#include "app/brushing.h"
#include "app/file_filter.h"
#include "app/load_way.h"
#include "app/mark_faces.h"
#include "app/offers/offers_bar.h"
#include "app/offers/selection_fields.h"
#include "app/other_files.h"
#include "app/outline/outline_editor.h"
#include "app/practice.h"
#include "app/seat_part.h"
#include "app/sheet/build_sheet.h"
#include "app/single_supports.h"
#include "app/templates.h"
#include "app/units.h"
#include "app/write_map.h"
#include "app/write_outline.h"
#include "base/text.h"
#include <QFileDialog>
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

/// What is wanted of chosen faces and picked places in print, and what the brush makes.
void OffersBar::add_bed_acts(std::vector<Act>& acts) {
    for (int i = 0; i < face_marks; ++i) {
        const FaceMark mark = FaceMark(i);
        Act act{.group = ActGroup::Bed,
                .id = "mark_faces",
                .words = QString("Mark ") + words_of(mark),
                .line = about_mark(mark),
                .synonyms = {"face", "surface", "visible", "support", "brush", "cosmetic"},
                .for_selection = true,
                .run = [this, mark](const QStringList&) { return mark_chosen(*session_, mark); }};
        if (faces_to_mark(*session_).empty()) act.needs = "choose faces";
        acts.push_back(std::move(act));
    }
    const bool brushes = can_brush(*session_);
    for (int i = 0; i <= face_marks; ++i) {
        const auto mark = i < face_marks ? std::optional(FaceMark(i)) : std::nullopt;
        Act act{.group = ActGroup::Bed,
                .id = "mark_faces",
                .words = mark ? QString("Brush ") + words_of(*mark) : QString("Wipe marks off"),
                .line = "Drawn over the triangles of a mesh, wherever there is no face of its own.",
                .synonyms = {"paint", "mesh", "triangles", "mark", "erase"},
                .run = [this, mark](const QStringList&) { return take_brush(*session_, mark); }};
        if (!brushes) act.needs = "a part made of triangles";
        acts.push_back(std::move(act));
    }
    const bool goes_on = brushed_step(*session_) != nullptr;
    for (bool wipes : {false, true}) {
        Act act{.group = ActGroup::Meshes,
                .id = "brush_face",
                .words = wipes     ? "Wipe the brushed face"
                         : goes_on ? "Brush more of the face"
                                   : "Brush a face",
                .line = wipes ? "What is drawn over is not of the face any more."
                              : "What is drawn over becomes a face of its own, to move, push, delete or close.",
                .synonyms = {"paint", "region", "patch", "free", "select", "draw", "area"},
                .run = [this, wipes](const QStringList&) { return take_face_brush(*session_, wipes); }};
        if (!can_brush_face(*session_))
            act.needs = "a part made of triangles";
        else if (wipes && !goes_on)
            act.needs = "a brushed face's step in hand";
        acts.push_back(std::move(act));
    }
    Act here{.group = ActGroup::Bed,
             .id = "supports",
             .words = "Support here",
             .line = "A post or a tip under the place that was picked.",
             .synonyms = {"single", "add", "post", "tip"},
             .run = [this](const QStringList&) -> std::optional<QString> {
                 const auto place = picked_place_to_carry(*session_);
                 if (!place) return QString("Pick a place that looks down or sideways first.");
                 put_support_in(*session_, *place);
                 return std::nullopt;
             }};
    // Elsewhere it is not told of a face: menus of what fits one are long enough.
    here.for_selection = picked_place_to_carry(*session_).has_value();
    if (!here.for_selection) here.needs = "pick a place on the bed that looks down";
    acts.push_back(std::move(here));
    Act seated{.group = ActGroup::Placing,
               .id = "seat",
               .words = "Seat a part on another",
               .line = "A face of it on a face of another part, round about round; it follows both.",
               .synonyms = {"mate", "assembly", "constraint", "put", "stand", "together"},
               .for_selection = true,
               .run = [this](const QStringList&) { return seat_chosen(*session_); }};
    if (!chosen_seat(*session_)) seated.needs = "choose faces of two parts";
    acts.push_back(std::move(seated));
    Act pulled{.group = ActGroup::Bed,
               .id = "poses",
               .words = "Pulled this way",
               .line = "The load in use: ways up in which it pulls the layers apart cost more.",
               .synonyms = {"load", "force", "strength", "strong", "arrow", "stress"},
               .for_selection = true,
               .run = [this](const QStringList&) { return pull_along_chosen(*session_); }};
    if (!chosen_way(*session_)) pulled.needs = "choose a face or a straight edge";
    acts.push_back(std::move(pulled));
}

static auto to_stretch(Session* session, Stretch to) {
    return [session, to] { session->workspace().set_stretch(to); };
}

/// Appends an act that always fits.
static auto adder_of(std::vector<Act>& acts) {
    return [&acts](ActGroup group, const char* id, const char* words, const char* line, QStringList synonyms,
                   std::function<void()> run) {
        acts.push_back({.group = group,
                        .id = id,
                        .words = words,
                        .line = line,
                        .synonyms = std::move(synonyms),
                        .run = [run = std::move(run)](const QStringList&) {
                            run();
                            return std::optional<QString>();
                        }});
    };
}

/// What the window does, apart from steps.
void OffersBar::add_window_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
    add(ActGroup::Add, "part", "New part", "Another printed part, with a build sheet of its own.", {"add", "object"},
        [this] { add_part(false); });
    add(ActGroup::Add, "take", "Part of its own",
        "The chosen body, or all but the largest, leave the part and become one: another colour, another way up.",
        {"separate", "extract", "body", "split off", "colour", "plug"}, [this] { set_bodies_apart(*session_); });
    add(ActGroup::Fits, "stand_in", "New stand-in",
        "A bought thing by its measured sizes: shown and cut with, never printed.", {"add", "bought", "dummy"},
        [this] { add_part(true); });
    add(ActGroup::Letters, "letters", "Letters", "A word drawn flat, to be raised or sunk.",
        {"text", "word", "label", "engrave", "emboss", "font"}, [this] { draw_letters(false); });
    add(ActGroup::Letters, "letters_round", "Letters round a circle",
        "A word that runs along a circle, to be raised or sunk.", {"text", "arc", "curved", "dial", "along"},
        [this] { draw_letters(true); });
    add(ActGroup::Check, "check", "Check the part", "Looks for what would not print: mid-air starts, thin walls, gaps.",
        {"inspect", "analyse", "findings"}, to_stretch(session_, Stretch::Check));
    add(ActGroup::Check, "walls", "Wall thickness",
        "Colours the part by how thick its walls are, with contours at lines of the nozzle.",
        {"thin", "thickness", "map", "line"}, [this] {
            session_->workspace().set_stretch(Stretch::Check);
            session_->workspace().set_coloured(Workspace::Coloured::Walls);
        });
    add(ActGroup::Check, "walls", "How far it is off",
        "Colours the part by its distance from the mesh it came from, or of a practice print from the design.",
        {"deviation", "compare", "difference", "moved", "map", "original"}, [this] {
            session_->workspace().set_stretch(Stretch::Check);
            if (session_->results().original())
                session_->workspace().set_coloured(Workspace::Coloured::Deviation);
            else
                session_->say("There is nothing to measure it against: it needs a part that began with a file and was "
                              "changed, or a practice print.",
                              true);
        });
    add(ActGroup::Check, "fit", "Fits and contacts", "Every gap between things that touch or move, measured.",
        {"clearance", "tolerance", "gap"}, to_stretch(session_, Stretch::Fit));
    add(ActGroup::Check, "check", "Print in practice",
        "What would come out of the printer: grown, drooped and fused, as a part beside the design.",
        {"practice", "simulate", "simulation", "test", "trial", "sag"}, [this] {
            session_->workspace().set_stretch(Stretch::Export);
            print_in_practice(*session_);
        });
    add(ActGroup::Bed, "bed", "Lay it on the bed", "How the part lies when it is printed.",
        {"pose", "orient", "rotate", "flat"}, to_stretch(session_, Stretch::Bed));
    add_bed_acts(acts);
    add_choosing_acts(acts);
    add(ActGroup::Bed, "poses", "Compare ways up", "Other ways the part could lie, side by side, with what each costs.",
        {"orient", "orientation", "pose", "lie", "up"}, [this] {
            session_->workspace().set_stretch(Stretch::Bed);
            emit session_->poses_wanted();
        });
    add(ActGroup::Bed, "layer_lines", "Lines of the layers",
        "Every line of a layer as it will lie, from above, laid one after the other.",
        {"layers", "paths", "extrusions", "preview", "infill", "walls", "toolpath", "first layer"},
        [this] { emit session_->lines_wanted(); });
    add(ActGroup::Bed, "layer_lines", "Look at a print plan …",
        "A file of G-code made elsewhere, layer by layer: its lines, what hangs, its time, beside the part.",
        {"gcode", "g-code", "toolpath", "preview", "open", "compare"}, [this] {
            const QString file = QFileDialog::getOpenFileName(window(), "Look at a print plan", {}, plan_filter());
            if (!file.isEmpty()) emit session_->plan_wanted(file);
        });
    add(ActGroup::Fits, "put_together", "Put together",
        "In which order the parts go together, from where each comes in, and what is in its way.",
        {"assemble", "assembly", "explode", "apart", "order"}, [this] {
            session_->workspace().set_stretch(Stretch::Fit);
            session_->taken_apart().work_out();
            session_->say("The order stands in the left column: its slider takes the thing apart.");
        });
    add(ActGroup::Check, "split", "Section …",
        "The view is cut open, along an axis or a face, where the slider or a number says; nothing is changed.",
        {"cut", "open", "inside", "clip", "plane"}, [this] { emit session_->section_wanted(); });
    for (bool faint : {false, true})
        add(ActGroup::Fits, "put_together", faint ? "One part alone, the others faint" : "One part alone",
            faint ? "The active part in the middle of the others, which are faint and cannot be clicked."
                  : "Only the active part is shown.",
            {"isolate", "hide", "ghost", "focus", "single"}, [this, faint] {
                session_->workspace().isolate(session_->workspace().active_part(), faint);
                session_->say("The others come back with \"all parts again\", or in the view's menu.");
            });
    add(ActGroup::Fits, "put_together", "All parts again", "Shows every part that is visible.",
        {"isolate", "show", "unhide", "ghost"}, [this] { session_->workspace().isolate({}); });
    add(ActGroup::Bed, "arrange", "Arrange the beds", "Puts everything on as few beds as it needs, a colour a bed.",
        {"nest", "pack", "plate", "layout", "beds"}, [this] {
            session_->workspace().set_stretch(Stretch::Bed);
            arrange_everything(*session_);
        });
    add(ActGroup::Bed, "supports", "Supports", "Puts posts or trees under what hangs, or takes them away.",
        {"posts", "trees", "branches"}, [this] { switch_supports(); });
    add(ActGroup::Bed, "supports", "Choose a support", "One tip after the other; Delete takes the chosen one away.",
        {"single", "edit", "post", "tip", "remove"}, [this] {
            session_->workspace().set_stretch(Stretch::Bed);
            session_->workspace().clear_selection();
            choose_next_support(*session_);
        });
    add(ActGroup::Bed, "supports", "Supports as worked out", "Drops every support put in or taken away by hand.",
        {"reset", "manual", "single"}, [this] { forget_single_supports(*session_); });
    add(ActGroup::Bed, "bed", "Lay siblings alike",
        "Other parts of the same shape lie so too, with the same supports, brim and marks.",
        {"copy", "same", "pose", "supports", "twins"}, [this] { lay_siblings_alike(*session_); });
}

void OffersBar::add_file_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
    add(ActGroup::Files, "bring_in", "Replace the file …",
        "A newer file in the place of the one the part begins with; every step stays.",
        {"swap", "update", "newer", "import", "reload"}, [this] {
            const QString file =
                QFileDialog::getOpenFileName(window(), "Replace the file", {}, file_filter("Bodies", false));
            if (!file.isEmpty()) replace_file(*session_, file);
        });
    add(ActGroup::Files, "bring_in", "Same steps for other files …",
        "A part with the same steps for each file: siblings of the one in hand.",
        {"batch", "recipe", "several", "many", "repeat", "siblings"}, [this] {
            const QStringList files =
                QFileDialog::getOpenFileNames(window(), "Same steps for other files", {}, file_filter("Bodies", false));
            if (!files.isEmpty()) same_steps_for_files(*session_, files);
        });
    add(ActGroup::Files, "export", "Export", "Writes the parts as files for the slicer and reads them back.",
        {"write", "stl", "3mf", "slicer"}, [this] { emit export_wanted(); });
    add(ActGroup::Files, "export", "Export a table of numbers …",
        "The project once for each row of a table (CSV): the first row names the numbers, the first column the rows.",
        {"batch", "csv", "spreadsheet", "variants", "family"}, [this] {
            const QString table =
                QFileDialog::getOpenFileName(window(), "Export a table of numbers", {}, "Tables (*.csv *.tsv *.txt)");
            if (table.isEmpty()) return;
            const QString folder = QFileDialog::getExistingDirectory(window(), "Where the rows go");
            if (!folder.isEmpty()) session_->export_table(table, folder, {"3mf"});
        });
    add(ActGroup::Files, "export", "Job sheet",
        "The page for the workshop as PDF: pictures, sizes, what to buy, fits, stops, settings.",
        {"pdf", "print", "report", "paper"}, to_stretch(session_, Stretch::Export));
    add(ActGroup::Files, "export", "Write an outline …",
        "Of the chosen flat face, or of what the section cuts, as DXF or SVG in millimetres.",
        {"dxf", "svg", "face", "section", "profile", "laser", "template"}, [this] {
            if (!has_outline_to_write(*session_))
                return session_->say("Choose a flat face, or open the section.", true);
            const QString file =
                QFileDialog::getSaveFileName(window(), "Write an outline", {}, "DXF (*.dxf);;SVG (*.svg)");
            if (file.isEmpty()) return;
            if (const auto wrong = write_outline(*session_, file)) session_->say(*wrong, true);
        });
    add(ActGroup::Files, "export", "Write the map …",
        "What colours the view: walls, a gap, a deviation, as PLY with a colour at every corner.",
        {"ply", "heat map", "colours", "scan", "deviation", "wall"}, [this] {
            if (!has_map_to_write(*session_)) return session_->say(nothing_mapped, true);
            const QString file = QFileDialog::getSaveFileName(window(), "Write the map", {}, "PLY (*.ply)");
            if (!file.isEmpty()) write_map(*session_, file);
        });
    add(ActGroup::Files, "export", "Drawing of a part",
        "The active part from three sides with its sizes, a cut, and what to measure on the print, as PDF or SVG.",
        {"dimensions", "views", "section", "blueprint", "measure"}, to_stretch(session_, Stretch::Export));
    add(ActGroup::Files, "save", "Save", "Keeps the project in its file.", {"keep", "store"},
        [this] { emit save_wanted(); });
    add(ActGroup::Files, "save", "Keep as a template",
        "A new project can begin with this one: its picture and its named numbers stand on the page of a new project.",
        {"pattern", "reuse", "start", "blank", "master"}, [this] { keep_as_template(*session_, window()); });
    add(ActGroup::Files, "numbers", "Numbers by name", "The table of numbers that fields use by name.",
        {"parameters", "variables", "table"}, [this] { emit session_->numbers_wanted(); });
    add(ActGroup::Files, "versions", "Versions",
        "The design kept at moments by a name, compared with today's; a number taken back.",
        {"history", "snapshot", "compare", "milestone", "before"}, [this] { emit session_->versions_wanted(); });
    add(ActGroup::Files, "numbers", "Variants", "The same steps with other numbers, kept side by side.",
        {"configurations", "sizes"}, [this] { emit session_->variants_wanted(); });
    add(ActGroup::Files, "settings", "Settings", "Inches, a dark look, size of text, mouse habits, autosave.",
        {"preferences", "options", "units", "inches", "dark"}, [this] { emit session_->settings_wanted(); });
    add(ActGroup::Files, "help", "Help", "The guide, at the page of what is at hand.", {"guide", "manual", "what"},
        [this] { emit session_->help_wanted({}); });
    add(ActGroup::Files, "help", "Keys", "Every key there is.", {"keyboard", "shortcuts"},
        [this] { emit session_->help_wanted("keys"); });
    add(ActGroup::Files, "undo", "Undo", "Takes the last change back.", {"back"},
        [this] { session_->document().undo(); });
    add(ActGroup::Files, "redo", "Redo", "Does again what was taken back.", {"again"},
        [this] { session_->document().redo(); });
    add(ActGroup::Check, "mend", "Try again", "Makes every part anew, from the first step.", {"rebuild", "regenerate"},
        [this] { session_->results().make(); });
}

/// A new drawing whose text tool is in hand.
void OffersBar::draw_letters(bool round) {
    const auto& kinds = step_kinds();
    auto outline = std::find_if(kinds.begin(), kinds.end(), [](const StepKind& kind) { return kind.draws(); });
    take_offer(*outline, {}, session_->workspace().active_part()); // the part of what is chosen is the active one
    if (!outline_ || !outline_->active()) return;
    outline_->set_tool(round ? DrawTool::Circle : DrawTool::Text);
    session_->say(round ? QString("Draw the circle, then choose it together with a text and take Along the circle.")
                        : QString("Click where the word begins, then type it."));
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

void OffersBar::add_drawing_acts(std::vector<Act>& acts) {
    for (const Offer& offer : offers_) // what the row below offers comes with its own words
        acts.push_back({.id = "outline",
                        .words = offer.words,
                        .line = offer.hint,
                        .of_drawing = true,
                        .run = [run = offer.run](const QStringList&) {
                            run();
                            return std::optional<QString>();
                        }});
    acts.push_back({.id = "bring_in",
                    .words = "Bring in a drawing or a picture …",
                    .line = "SVG, DXF, or the dark shapes of a photo, into what is being drawn.",
                    .synonyms = {"import", "file", "dxf", "svg", "open", "trace"},
                    .of_drawing = true,
                    .run = [this](const QStringList&) {
                        outline_->choose_file();
                        return std::optional<QString>();
                    }});
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
