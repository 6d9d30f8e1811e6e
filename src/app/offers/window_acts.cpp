// What the window does, apart from steps: as acts that are found by their words.
#include "app/bed_stands.h"
#include "app/bodies_apart.h"
#include "app/brushing.h"
#include "app/file_filter.h"
#include "app/load_way.h"
#include "app/mark_faces.h"
#include "app/offers/offers_bar.h"
#include "app/other_files.h"
#include "app/outline/outline_editor.h"
#include "app/practice.h"
#include "app/seat_part.h"
#include "app/single_supports.h"
#include "app/templates.h"
#include "app/write_map.h"
#include "app/write_outline.h"
#include <QFileDialog>

namespace lp {

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

void OffersBar::add_window_acts(std::vector<Act>& acts) {
    add_new_acts(acts);
    add_check_acts(acts);
    add_lying_acts(acts);
    add_together_acts(acts);
    add_beds_acts(acts);
}

void OffersBar::add_new_acts(std::vector<Act>& acts) {
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
}

void OffersBar::add_check_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
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
}

void OffersBar::add_lying_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
    add(ActGroup::Bed, "bed", "Lay it on the bed", "How the part lies when it is printed.",
        {"pose", "orient", "rotate", "flat"}, to_stretch(session_, Stretch::Bed));
    add_chosen_acts(acts);
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
}

void OffersBar::add_together_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
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
}

void OffersBar::add_beds_acts(std::vector<Act>& acts) {
    const auto add = adder_of(acts);
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

void OffersBar::add_chosen_acts(std::vector<Act>& acts) {
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

} // namespace lp
