// What stands beside the work: tables in windows of their own, the settings, the help.
#include "app/bed_stands.h"
#include "app/brushing.h"
#include "app/help/help_panel.h"
#include "app/main_window.h"
#include "app/outline/outline_editor.h"
#include "app/panels/numbers_table.h"
#include "app/panels/settings_dialog.h"
#include "app/panels/variants_table.h"
#include "app/panels/versions_dialog.h"
#include "app/sheet/step_row.h"
#include "app/single_supports.h"
#include "app/strip/layer_strip.h"
#include "app/units.h"
#include "app/view/move_handles.h"
#include "app/view/size_handles.h"
#include "app/view/stand_handles.h"
#include "app/view/support_handles.h"
#include "app/view/view_widget.h"
#include "base/text.h"
#include <QApplication>
#include <QHBoxLayout>
#include <QScreen>
#include <QTextBrowser>

namespace lp {

/// A table in a window of its own. When it is closed the keys come back here: without a window manager nothing else
/// would send them.
void MainWindow::show_beside(QDialog* table) {
    connect(table, &QDialog::finished, this, &MainWindow::take_keys_back, Qt::UniqueConnection);
    if (const QSize room = table->screen()->availableSize() - QSize(24, 64); !table->isVisible())
        table->resize(table->size().boundedTo(room));
    table->show();
    table->raise();
    table->activateWindow();
}

void MainWindow::take_keys_back() {
    activateWindow();
    view_->setFocus();
}

void MainWindow::show_numbers() {
    if (!numbers_) numbers_ = new NumbersTable(session_, this);
    show_beside(numbers_);
}

void MainWindow::show_variants() {
    if (!variants_) variants_ = new VariantsTable(session_, this);
    show_beside(variants_);
}

void MainWindow::show_versions() {
    if (!versions_) versions_ = new VersionsDialog(session_, this);
    show_beside(versions_);
}

void MainWindow::make_size_handles() {
    sizes_ = std::make_unique<SizeHandles>(view_);
    view_->add_overlay(sizes_.get());
    sizes_->changing = [this](const SizeHandles::Target& t, const std::string& field, const std::string& text) {
        preview_typed(*session_, t.part, t.step, field, text);
    };
    sizes_->kept = [this](const SizeHandles::Target& t, const std::string& field, const std::string& text) {
        if (session_->document().edit(edit_from_typed(*session_->project(), t.part, t.step, field, text)))
            session_->results().end_preview();
    };
    sizes_->dropped = [this] {
        session_->results().end_preview();
        ask_for_scene(false);
    };
    sizes_->said = [this](const QString& words) { session_->say(words); };
}

/// Sizes of the step in hand, where its part stands in the picture.
void MainWindow::place_size_handles() {
    const PartId id = session_->workspace().active_part();
    const StepId step_id = session_->workspace().active_step();
    const Evaluation* evaluation = session_->results().evaluation();
    const ProjectPtr shown = evaluation ? evaluation->project : nullptr; // what is tried out by hand too
    const Step* step = shown && step_id ? shown->step(id, step_id) : nullptr;
    const PartResult* part = evaluation ? evaluation->part(id) : nullptr;
    const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
    if (!kind || !part || outline_->active() || handles_->target() || session_->workspace().stretch() != Stretch::Shape)
        return sizes_->set_target({});
    auto outcome =
        std::find_if(part->steps.begin(), part->steps.end(), [&](const StepOutcome& o) { return o.step == step_id; });
    if (outcome == part->steps.end() || outcome->handles.empty()) return sizes_->set_target({});
    Transform place = Transform::Identity();
    for (const SceneBody& body : view_->scene().bodies)
        if (body.part == id) place = body.place;
    SizeHandles::Target target{id, step_id, {}};
    for (SizeHandle handle : outcome->handles) {
        const StepField* field = kind->field(handle.field);
        const std::string text = field_text(*step, *field);
        auto value = number_in_field(*field, text, evaluation->values);
        if (!value) continue;
        handle.from = place * handle.from;
        handle.way = place.linear() * handle.way;
        target.sizes.push_back({handle, QString::fromStdString(as_words(handle.field)), *value, field->low, field->high,
                                names_in_expression(text).empty() ? QString() : as_shown(text)});
    }
    sizes_->set_target(target);
}

void MainWindow::make_stand_handles() {
    stands_ = std::make_unique<StandHandles>(view_);
    view_->add_overlay(stands_.get());
    stands_->chosen = [this](PartId, int copy) { session_->workspace().set_active_copy(copy); };
    stands_->moved = [this](PartId part, const StandHandles::Stand& stand, const BedSpot& to) {
        put_on_bed(*session_, part, stand.copy, {to, stand.locked});
    };
}

/// On the beds, every copy of the part in hand can be pushed about.
void MainWindow::place_stand_handles() {
    const PartId id = session_->workspace().active_part();
    if (session_->workspace().stretch() != Stretch::Bed || outline_->active()) return stands_->set_target({});
    StandHandles::Target target{id, {}, session_->workspace().active_copy(), view_->scene().bed_mm};
    for (const BedCopy& copy : bed_layout(*session_).copies) {
        if (copy.part != id) continue;
        const Vec3 bed(target.bed_mm.x() / 2, target.bed_mm.y() / 2, 0);
        const Vec3 middle =
            Vec3(copy.spot.at.x(), copy.spot.at.y(), 0) + middle_of_bed(copy.spot.bed, target.bed_mm) - bed;
        target.stands.push_back({copy.copy, copy.spot, copy.locked, middle, copy.wide_mm / 2});
    }
    if (target.stands.empty()) return stands_->set_target({});
    if (std::none_of(target.stands.begin(), target.stands.end(),
                     [&](const auto& stand) { return stand.copy == target.chosen; }))
        target.chosen = target.stands.front().copy;
    stands_->set_target(std::move(target));
}

void MainWindow::make_brush() {
    brush_ = std::make_unique<BrushHandle>(view_);
    view_->add_overlay(brush_.get());
    brush_->touched = [this](const QPointF& at) -> std::optional<BrushHandle::Touch> {
        for (const Pick& pick : view_->candidates_at(at))
            if (pick.kind == Pick::Kind::Face) return touch_of(*session_, pick); // what lies before it hides it
        return std::nullopt;
    };
    brush_->stroked = [this](const std::vector<BrushHandle::Touch>& stroke) { brush_along(*session_, stroke); };
    brush_->sized = [this](double radius) {
        if (auto now = session_->workspace().brush()) {
            now->radius_mm = std::clamp(radius, 0.2, 100.0);
            session_->workspace().take_brush(now);
        }
    };
    brush_->put_away = [this] { session_->workspace().take_brush(std::nullopt); };
    connect(&session_->workspace(), &Workspace::brush_changed, this, [this] {
        place_brush();
        if (session_->workspace().brush()) view_->setFocus();
        view_->update();
    });
    connect(&session_->results(), &Results::evaluated, this, [this] { // what was gone over is seen as it grows
        if (session_->workspace().brush() && session_->workspace().stretch() == Stretch::Shape)
            choose_brushed(*session_);
    });
}

void MainWindow::place_brush() {
    const auto& brush = session_->workspace().brush();
    const PartId id = session_->workspace().active_part();
    const bool shapes = session_->workspace().stretch() == Stretch::Shape;
    const bool can = shapes ? can_brush_face(*session_) : can_brush(*session_);
    if (brush && !can && session_->results().evaluation_is_current())
        return session_->workspace().take_brush(std::nullopt);
    if (!brush) return brush_->set_target({});
    BrushHandle::Target target{brush->radius_mm, !brush->mark, {}};
    if (shapes) {
        for (const SceneBody& body : view_->scene().bodies)
            if (body.part == id && !body.support && target.to_view.empty()) target.to_view.push_back(body.place);
        return brush_->set_target(std::move(target));
    }
    for (const BedCopy& copy : bed_layout(*session_).copies)
        if (copy.part == id) target.to_view.push_back(copy.place);
    brush_->set_target(std::move(target));
}

void MainWindow::make_support_handles() {
    support_dots_ = std::make_unique<SupportHandles>(view_);
    view_->add_overlay(support_dots_.get());
    support_dots_->chosen = [this](const std::optional<Vec3>& place) {
        session_->workspace().set_active_support(place);
    };
    support_dots_->taken_away = [this](const Vec3& place) { take_support_away(*session_, place); };
    support_dots_->moved = [this](const Vec3& from, const Vec3& to) { move_support(*session_, from, to); };
    support_dots_->place_at = [this](const QPointF& at) -> std::optional<Vec3> {
        for (const Pick& pick : view_->candidates_at(at))
            if (pick.part == session_->workspace().active_part() && pick.kind != Pick::Kind::Body)
                return place_to_carry(*session_, pick);
        return std::nullopt;
    };
}

/// On the bed, the tips of the part in hand.
void MainWindow::place_support_handles() {
    const auto places = carried_places(*session_);
    const auto chosen = session_->workspace().active_support();
    if (chosen && session_->results().analysis_is_current() && !is_among(places, *chosen))
        session_->workspace().set_active_support(std::nullopt); // undone, or made otherwise by other numbers
    if (places.empty()) return support_dots_->set_target({});
    const PartId id = session_->workspace().active_part();
    support_dots_->set_target(SupportHandles::Target{id, places,
                                                     on_its_bed(*session_, id) * session_->results().pose_of(id),
                                                     session_->workspace().active_support()});
}

void MainWindow::show_settings() {
    if (!settings_) {
        settings_ = new SettingsDialog(this);
        connect(settings_, &SettingsDialog::restart_wanted, this, [this] {
            if (may_leave()) emit restart_wanted();
        });
    }
    show_beside(settings_);
}

void MainWindow::show_help(const QString& page) {
    if (!help_) {
        help_ = new HelpPanel(session_, centralWidget());
        connect(help_, &HelpPanel::closed, this, [this] {
            help_->hide();
            view_->setFocus();
        });
        middle_->insertWidget(middle_->indexOf(strip_), help_);
    }
    help_->open(page.isEmpty() ? page_at_hand() : page);
    help_->show();
    help_->browser()->setFocus();
}

/// Of the sentence under the hand, of what is chosen, or of the stretch.
QString MainWindow::page_at_hand() const {
    for (QWidget* w = QApplication::focusWidget(); w; w = w->parentWidget())
        if (auto* row = qobject_cast<StepRow*>(w)) return "step:" + QString::fromStdString(row->shown().kind);
    if (outline_->active()) return "outlines";
    switch (session_->workspace().stretch()) {
    case Stretch::Fit:
        if (const ContactResult* contact = session_->results().active_contact();
            contact && find_fit(session_->project()->fits, contact->fit))
            return "fit:" + QString::fromStdString(contact->fit);
        return "fit";
    case Stretch::Check:
        if (const auto& finding = session_->workspace().active_finding())
            return QString("finding:") + row_of(finding->kind).id;
        return "check";
    case Stretch::Bed:
        return "bed";
    case Stretch::Export:
        return "export";
    case Stretch::Shape:
        break;
    }
    if (session_->project()->parts.empty()) return "index";
    return session_->workspace().selection().empty() ? "shape" : "working";
}

} // namespace lp
