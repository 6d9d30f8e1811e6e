#include "app/main_window.h"
#include "app/accessible.h"
#include "app/ledger/ledger.h"
#include "app/offers/nudge.h"
#include "app/offers/offers_bar.h"
#include "app/outline/outline_editor.h"
#include "app/panels/bed_panel.h"
#include "app/panels/check_panel.h"
#include "app/panels/export_panel.h"
#include "app/panels/numbers_table.h"
#include "app/panels/variants_table.h"
#include "app/recent.h"
#include "app/scene_builder.h"
#include "app/sheet/build_sheet.h"
#include "app/sheet/shelf.h"
#include "app/start_page.h"
#include "app/strip/layer_lines.h"
#include "app/strip/layer_strip.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/brush_handle.h"
#include "app/view/look_net.h"
#include "app/view/map_legend.h"
#include "app/view/move_handles.h"
#include "app/view/pose_cards.h"
#include "app/view/size_handles.h"
#include "app/view/stand_handles.h"
#include "app/view/support_handles.h"
#include "app/view/view_tools.h"
#include "app/view/view_widget.h"
#include "app/widgets/tape.h"
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QShortcut>
#include <QStackedWidget>
#include <QTableWidget>
#include <nlohmann/json.hpp>

namespace lp {

using theme::Role;

namespace {
QWidget* hairline(QWidget* parent) {
    auto* line = new QWidget(parent);
    line->setFixedHeight(1);
    line->setStyleSheet(QString("background: %1").arg(theme::css(Role::Line)));
    return line;
}
std::vector<Pick> whole_part(PartId part) {
    Pick pick;
    pick.kind = Pick::Kind::Body;
    pick.part = part;
    return {pick};
}
} // namespace

MainWindow::MainWindow(Session* session) : session_(session) {
    tell_assistive_programs();
    setWindowTitle("Loose Peg");
    setWindowIcon(QIcon(":/loose-peg/icons/loose-peg.svg"));
    resize(1280, 800);
    setMinimumSize(820, 500); // a screen of 1280 x 800 at text of 150 %
    setAcceptDrops(true);
    auto* all = new QWidget(this);
    auto* rows = new QVBoxLayout(all);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    rows->addWidget(make_top_bar());
    rows->addWidget(hairline(all));
    auto* middle = middle_ = new QHBoxLayout;
    middle->setContentsMargins(0, 0, 0, 0);
    middle->setSpacing(0);
    middle->addWidget(make_left_column());
    middle->addWidget(make_middle(), 1);
    strip_ = new LayerStrip(session_, all);
    middle->addWidget(strip_);
    rows->addLayout(middle, 1);
    ledger_ = new Ledger(session_, all);
    rows->addWidget(ledger_);
    setCentralWidget(all);
    make_shortcuts();

    outline_ = new OutlineEditor(session_, view_);
    view_->add_overlay(outline_);
    make_brush(); // in the hand it goes before everything else that is drawn at
    handles_ = std::make_unique<MoveHandles>(view_);
    view_->add_overlay(handles_.get());
    handles_->moved = [this](const MoveHandles::Target& t, const Vec3& by) { move_by(session_, t.part, t.body, by); };
    handles_->turned = [this](const MoveHandles::Target& t, int axis, double angle, const Vec3& centre) {
        turn_by(session_, t.part, t.body, axis, angle, centre);
    };
    make_size_handles();
    make_stand_handles();
    make_support_handles();
    legend_ = std::make_unique<MapLegend>(view_);
    view_->add_overlay(legend_.get());
    offers_->set_outline(outline_);
    follow_facts();
    connect_parts();
    show_title();
    show_stretch();
    update_scene(true);
    view_->setFocus();
}

MainWindow::~MainWindow() = default;

void MainWindow::follow_facts() {
    // However many facts change in a turn of the event loop, the scene is built once.
    auto show = [this] { ask_for_scene(false); };
    for (auto fact : {&Results::evaluated, &Results::analysed, &Results::gap_map_changed, &Results::check_map_changed})
        connect(&session_->results(), fact, this, show);
    connect(&session_->results(), &Results::movement_checked, this, show);
    for (auto fact : {&Workspace::selection_changed, &Workspace::active_part_changed, &Workspace::contact_changed,
                      &Workspace::finding_changed, &Workspace::cut_changed, &Workspace::step_changed,
                      &Workspace::copy_changed, &Workspace::support_changed})
        connect(&session_->workspace(), fact, this, show);
    connect(&session_->document(), &Document::project_changed, this, [this] {
        show_title();
        ask_for_scene(false);
    });
    connect(&session_->workspace(), &Workspace::stretch_changed, this, [this] {
        show_stretch();
        ask_for_scene(true);
    });
}

void MainWindow::connect_parts() {
    connect(outline_, &OutlineEditor::changed, view_, [this] { view_->update(); });
    connect(outline_, &OutlineEditor::mode_changed, this, [this] { ask_for_scene(false); });
    connect(session_, &Session::outline_wanted, this, [this](PartId part, StepId step) {
        session_->workspace().set_stretch(Stretch::Shape);
        session_->workspace().set_active_part(part);
        outline_->open(part, step);
    });
    connect(session_, &Session::arranged, this, [this] { ask_for_scene(true); });
    connect(sheet_, &BuildSheet::keys_back, this, [this] { view_->setFocus(); });
    connect(session_, &Session::panel_wanted, offers_, &OffersBar::open_panel);
    connect(session_, &Session::numbers_wanted, this, &MainWindow::show_numbers);
    connect(session_, &Session::variants_wanted, this, &MainWindow::show_variants);
    connect(session_, &Session::versions_wanted, this, &MainWindow::show_versions);
    connect(session_, &Session::settings_wanted, this, &MainWindow::show_settings);
    connect(session_, &Session::help_wanted, this, &MainWindow::show_help);
    connect(session_, &Session::regions_wanted, this,
            [this](PartId part, StepId outline, StepId step) { outline_->choose_for(part, outline, step); });
    connect(&session_->workspace(), &Workspace::stretch_changed, outline_, [this] {
        if (session_->workspace().stretch() != Stretch::Shape) outline_->close();
    });
    connect(&session_->results(), &Results::gap_map_changed, offers_, &OffersBar::refresh);
    connect(&session_->results(), &Results::movement_shown, this, &MainWindow::shift_led);
    connect(&session_->taken_apart(), &TakenApart::began_or_ended, this, [this] { ask_for_scene(false); });
    connect(&session_->taken_apart(), &TakenApart::shown, view_,
            [this](PartId part, const std::optional<Transform>& by) {
                view_->shift_bodies(part, std::nullopt, by.value_or(Transform::Identity()));
            });
    connect(&session_->worker(), &Worker::busy, view_, &ViewWidget::set_busy);
    connect(view_, &ViewWidget::picked, &session_->workspace(), &Workspace::select);
    connect(view_, &ViewWidget::contact_chosen, &session_->workspace(), &Workspace::set_active_contact);
    connect(view_, &ViewWidget::menu_wanted, this, [this](const Pick& pick, const QPoint& at) {
        if (outline_->active()) return offers_->open_menu(at);
        const auto& chosen = session_->workspace().selection();
        if (std::none_of(chosen.begin(), chosen.end(), [&](const Pick& p) { return p.same(pick); }))
            session_->workspace().select(pick, false);
        offers_->open_menu(at);
    });
    connect(view_, &ViewWidget::boxed, &session_->workspace(), &Workspace::select_all);
    connect(view_, &ViewWidget::stop_wanted, session_, &Session::stop);
    connect(view_, &ViewWidget::escape_pressed, &session_->workspace(), &Workspace::clear_selection);
    connect(view_, &ViewWidget::number_pressed, offers_, &OffersBar::take);
    connect(view_, &ViewWidget::nudged, this, [this](const Vec3& by) { nudge(session_, by); });
    connect(view_, &ViewWidget::line_wanted, offers_, &OffersBar::open_panel);
    connect(offers_, &OffersBar::view_wanted, this, [this] { view_->setFocus(); });
    connect(offers_, &OffersBar::fit_view_wanted, view_, &ViewWidget::fit_selection);
    connect(offers_, &OffersBar::bring_in_wanted, this, &MainWindow::ask_bring_in);
    connect(offers_, &OffersBar::export_wanted, export_, &ExportPanel::export_now);
    connect(offers_, &OffersBar::save_wanted, this, [this] { ask_save(false); });
    connect(view_, &ViewWidget::hovered, this,
            [this](const Pick& pick) { view_->set_hint(describe_pick(*session_, pick)); });
    connect(&session_->document(), &Document::said, this, &MainWindow::show_message);
    connect(&session_->document(), &Document::replaced, this, [this] {
        const QString path = session_->document().path();
        if (path.endsWith(".loosepeg")) remember(path, {});
    });
}

QWidget* MainWindow::make_top_bar() {
    auto* bar = new QWidget(this);
    bar->setFixedHeight(theme::tape_height);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(theme::margin - 1, 0, theme::margin, 0);
    row->setSpacing(6);
    tape_ = new Tape(session_, bar);
    row->addWidget(tape_, 100);
    row->addStretch(1);
    title_ = new QLabel(bar);
    title_->setTextFormat(Qt::RichText);
    title_->setMinimumWidth(40); // what has no room is in its tip and over the window
    title_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    row->addWidget(title_);
    auto* files = new QPushButton("Project ▾", bar);
    files->setFlat(true);
    files->setAccessibleName("Project menu");
    auto* menu = new QMenu(files);
    auto act = [&](const QString& words, const QKeySequence& keys, auto call) {
        QAction* action = menu->addAction(words);
        action->setShortcut(keys);
        action->setShortcutContext(Qt::WindowShortcut);
        connect(action, &QAction::triggered, this, call);
        addAction(action);
    };
    act("New", QKeySequence::New, [this] {
        if (may_leave()) session_->document().start_new();
    });
    act("Open …", QKeySequence::Open, [this] { ask_open(); });
    act("Bring in …", QKeySequence("Ctrl+I"), [this] { ask_bring_in(); });
    menu->addSeparator();
    act("Save", QKeySequence::Save, [this] { ask_save(false); });
    act("Save as …", QKeySequence("Ctrl+Shift+S"), [this] { ask_save(true); });
    act("Rename …", QKeySequence("F2"), [this] { rename_project(); });
    menu->addSeparator();
    act("Numbers by name …", QKeySequence("Ctrl+B"), [this] { show_numbers(); });
    act("Variants of the part …", QKeySequence("Ctrl+Shift+B"), [this] { show_variants(); });
    act("Versions of the design …", QKeySequence(), [this] { show_versions(); });
    menu->addSeparator();
    act("Settings …", QKeySequence("Ctrl+,"), [this] { show_settings(); });
    act("Help", QKeySequence::HelpContents, [this] { show_help({}); });
    act("Keys", QKeySequence("Shift+F1"), [this] { show_help("keys"); });
    menu->addSeparator();
    act("Close", QKeySequence::Quit, [this] { close(); });
    files->setMenu(menu);
    row->addWidget(files);
    undo_ = new QPushButton("Undo", bar);
    redo_ = new QPushButton("Redo", bar);
    for (QPushButton* button : {undo_, redo_}) {
        button->setFlat(true);
        row->addWidget(button);
    }
    connect(undo_, &QPushButton::clicked, &session_->document(), &Document::undo);
    connect(redo_, &QPushButton::clicked, &session_->document(), &Document::redo);
    return bar;
}

QWidget* MainWindow::make_left_column() {
    auto* left = new QWidget(this);
    left->setFixedWidth(theme::left_width);
    theme::give_ground(left, Role::Card);
    auto* rows = new QVBoxLayout(left);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(0, 4, 10, 0);
    head->addWidget(make_heading("Parts and stand-ins", "", left));
    head->addStretch();
    auto* plus = new QPushButton(left);
    plus->setFlat(true);
    plus->setIcon(theme::line_icon("plus"));
    plus->setFixedSize(28, 28);
    plus->setStyleSheet("padding: 0;");
    plus->setAccessibleName("Add a part or a stand-in");
    plus->setToolTip("Add a part or a stand-in");
    auto* menu = new QMenu(plus);
    for (bool stand_in : {false, true})
        connect(menu->addAction(stand_in ? "New stand-in (a bought thing)" : "New part (printed)"), &QAction::triggered,
                this, [this, stand_in] { offers_->add_part(stand_in); });
    connect(menu->addAction("Bring in a mesh …"), &QAction::triggered, this, &MainWindow::ask_bring_in);
    plus->setMenu(menu);
    head->addWidget(plus);
    rows->addLayout(head);
    shelf_ = new Shelf(session_, left);
    auto* shelf_area = new QScrollArea(left);
    shelf_area->setWidgetResizable(true);
    shelf_area->setWidget(shelf_);
    theme::give_ground(shelf_, Role::Card);
    shelf_area->setFocusPolicy(Qt::NoFocus);
    shelf_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto fit_shelf = [this, shelf_area] {
        shelf_area->setFixedHeight(std::min(shelf_->sizeHint().height(), theme::row_height * 7));
    };
    connect(&session_->document(), &Document::project_changed, shelf_area, fit_shelf);
    fit_shelf();
    rows->addWidget(shelf_area);
    auto* columns = new QStackedWidget(left);
    columns->setObjectName("columns");
    sheet_ = new BuildSheet(session_);
    fit_ = new FitPanel(session_);
    check_ = new CheckPanel(session_);
    bed_ = new BedPanel(session_);
    export_ = new ExportPanel(session_);
    for (QWidget* panel : std::initializer_list<QWidget*>{sheet_, fit_, check_, bed_, export_}) {
        auto* area = new QScrollArea(columns);
        area->setWidgetResizable(true);
        area->setFocusPolicy(Qt::NoFocus);
        area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
        theme::give_ground(panel, Role::Card);
        area->setWidget(panel);
        columns->addWidget(area);
    }
    rows->addWidget(columns, 1);
    auto* line = new QWidget(left);
    line->setFixedWidth(1);
    line->setStyleSheet(QString("background: %1").arg(theme::css(Role::Line)));
    auto* with_line = new QWidget(this);
    auto* box = new QHBoxLayout(with_line);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(left);
    box->addWidget(line);
    return with_line;
}

QWidget* MainWindow::make_middle() {
    auto* middle = new QWidget(this);
    auto* rows = new QVBoxLayout(middle);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(0);
    view_ = new ViewWidget(middle);
    rows->addWidget(view_, 1);
    rows->addWidget(hairline(middle));
    offers_ = new OffersBar(session_, view_, middle);
    theme::give_ground(offers_, Role::Card);
    rows->addWidget(offers_);
    tools_ = new ViewTools(session_, view_);
    connect(session_, &Session::section_wanted, tools_, [this] { tools_->show_section(true); });
    connect(tools_, &ViewTools::drawing_changed, this, [this] { ask_for_scene(false); });
    new LookNet(view_);
    poses_ = new PoseCards(session_, view_);
    connect(session_, &Session::poses_wanted, poses_, &PoseCards::compare);
    lines_ = new LayerLinesView(session_, view_);
    connect(session_, &Session::lines_wanted, lines_, &LayerLinesView::turn_over);
    connect(session_, &Session::plan_wanted, lines_, &LayerLinesView::look_at_plan);
    // A new project teaches.
    auto* start = new StartPage(view_);
    empty_ = start;
    connect(start, &StartPage::block_wanted, this, [this] { offers_->take(1); });
    connect(start, &StartPage::outline_wanted, this, [this] {
        for (const Offer& offer : offers_->offers())
            if (offer.words == "Outline") return Offer(offer).run();
    });
    connect(start, &StartPage::bring_in_wanted, this, &MainWindow::ask_bring_in);
    connect(start, &StartPage::open_wanted, this, &MainWindow::ask_open);
    connect(start, &StartPage::project_wanted, this, [this](const QString& path) {
        if (path.isEmpty()) return session_->say("The demo project was not found beside the program.", true);
        session_->document().open(path);
        view_->setFocus();
    });
    connect(start, &StartPage::refused, this, [this](const QString& why) { session_->say(why, true); });
    connect(start, &StartPage::template_wanted, this, [this](const QString& path) {
        if (!session_->document().open(path)) return;
        view_->setFocus();
        if (!session_->project()->parameters.empty()) emit session_->numbers_wanted(); // what there is to set
    });
    connect(view_, &ViewWidget::drawn, start, [this, start] {
        if (start->isVisible()) start->place(view_->size());
    });
    return middle;
}

void MainWindow::make_shortcuts() {
    auto on = [this](const QKeySequence& keys, auto call) {
        auto* shortcut = new QShortcut(keys, this);
        connect(shortcut, &QShortcut::activated, this, call);
        return shortcut;
    };
    // These also in the tables that stand in windows of their own.
    on(QKeySequence::Undo, [this] { session_->document().undo(); })->setContext(Qt::ApplicationShortcut);
    on(QKeySequence::Redo, [this] { session_->document().redo(); })->setContext(Qt::ApplicationShortcut);
    // Around the window: tape, shelf, column, view, strip, ledger.
    on(QKeySequence("F6"), [this] {
        std::vector<QWidget*> stops{tape_, shelf_, findChild<QStackedWidget*>("columns")->currentWidget(), view_,
                                    strip_};
        if (ledger_->table()->isVisible()) stops.push_back(ledger_->table());
        size_t now = 0;
        for (size_t i = 0; i < stops.size(); ++i)
            if (stops[i] == focusWidget() || stops[i]->isAncestorOf(focusWidget())) now = i;
        for (size_t k = 1; k <= stops.size(); ++k) {
            QWidget* next = stops[(now + k) % stops.size()];
            if (auto* area = qobject_cast<QScrollArea*>(next)) {
                for (QWidget* child : area->widget()->findChildren<QWidget*>())
                    if (child->focusPolicy() == Qt::StrongFocus && child->isVisible())
                        return child->setFocus(Qt::TabFocusReason);
                continue;
            }
            return next->setFocus(Qt::TabFocusReason);
        }
    });
    for (int i = 0; i < 5; ++i)
        on(QKeySequence(QString("Alt+%1").arg(i + 1)), [this, i] { session_->workspace().set_stretch(Stretch(i)); });
    on(QKeySequence("Ctrl+R"), [this] { repeat_once_more(session_); });
    on(QKeySequence("Ctrl+L"), [this] { ledger_->set_open(!ledger_->is_open()); });
}

void MainWindow::show_stretch() {
    findChild<QStackedWidget*>("columns")->setCurrentIndex(int(session_->workspace().stretch()));
    tape_->update();
}

void MainWindow::show_title() {
    QString name = QString::fromStdString(session_->project()->name);
    QString state = session_->document().changed()          ? "not saved yet"
                    : session_->document().path().isEmpty() ? ""
                                                            : "saved";
    title_->setText(
        QString("<span style='font-weight:700'>%1</span>%2")
            .arg(name.toHtmlEscaped(),
                 state.isEmpty()
                     ? ""
                     : QString("<span style='color:%1'> · %2</span>").arg(theme::css(Role::SoftInk), state)));
    undo_->setEnabled(session_->document().history().can_undo());
    redo_->setEnabled(session_->document().history().can_redo());
    undo_->setToolTip(session_->document().history().can_undo()
                          ? "Take back: " + QString::fromStdString(session_->document().history().undo_sentence())
                          : "Nothing to take back");
    redo_->setToolTip(session_->document().history().can_redo()
                          ? "Do again: " + QString::fromStdString(session_->document().history().redo_sentence())
                          : "Nothing to do again");
    title_->setToolTip(name);
    setWindowTitle(name + (session_->document().changed() ? " * " : " ") + "– Loose Peg");
    empty_->setVisible(session_->project()->parts.empty());
}

/// The name is typed where it stands.
void MainWindow::rename_project() {
    auto* line = new QLineEdit(QString::fromStdString(session_->project()->name), title_->parentWidget());
    line->setAccessibleName("Name of the project");
    line->setObjectName("project-name");
    line->setFixedSize(260, 30);
    QPoint right = title_->geometry().topRight();
    line->move(std::max(0, right.x() - line->width()), (title_->parentWidget()->height() - line->height()) / 2);
    connect(line, &QLineEdit::editingFinished, this, [this, line] {
        if (line->isHidden()) return;
        line->hide();
        QString name = line->text().trimmed();
        if (name != QString::fromStdString(session_->project()->name))
            session_->document().edit(SetProjectName{name.toStdString()});
        line->deleteLater();
        view_->setFocus();
    });
    connect(new QShortcut(Qt::Key_Escape, line, nullptr, nullptr, Qt::WidgetShortcut), &QShortcut::activated, line,
            [this, line] {
                line->hide();
                line->deleteLater();
                view_->setFocus();
            });
    line->show();
    line->selectAll();
    line->setFocus();
}

/// Handles stand on a whole part that is chosen, or on one of its bodies when it has several.
void MainWindow::place_handles() {
    const auto& picks = session_->workspace().selection();
    bool there = picks.size() == 1 && picks[0].kind == Pick::Kind::Body && !(outline_ && outline_->active()) &&
                 (session_->workspace().stretch() == Stretch::Shape || session_->workspace().stretch() == Stretch::Fit);
    PartPtr part = there ? session_->project()->part(picks[0].part) : nullptr;
    if (!part || part->steps.empty()) return handles_->set_target({});
    MoveHandles::Target target{part->id, {}};
    const auto* bodies = session_->results().bodies_of(part->id);
    if (session_->workspace().stretch() == Stretch::Shape && bodies && bodies->size() > 1) target.body = picks[0].body;
    handles_->set_target(target);
}

void MainWindow::ask_for_scene(bool refit) {
    refit_wanted_ = refit_wanted_ || refit;
    if (std::exchange(scene_wanted_, true)) return;
    QMetaObject::invokeMethod(
        this,
        [this] {
            scene_wanted_ = false;
            update_scene(std::exchange(refit_wanted_, false));
        },
        Qt::QueuedConnection);
}

void MainWindow::update_scene(bool refit) {
    Scene scene = build_scene(*session_);
    scene.edges = view_->property("edges").toBool();
    scene.edges_only = view_->property("edges_only").toBool();
    // What lay under the pointer is there no more once its body was made anew.
    const Pick under = view_->scene().hovered;
    auto shape_under = [&](const Scene& in) {
        for (const SceneBody& b : in.bodies)
            if (b.part == under.part && b.body == under.body) return b.shape.get();
        return static_cast<const Tessellation*>(nullptr);
    };
    if (under && shape_under(scene) && shape_under(scene) == shape_under(view_->scene()))
        scene.hovered = under;
    else if (under)
        view_->set_hint({});
    if (outline_ && outline_->active()) { // the part as the drawing found it, and what is only measured, faintly; the
                                          // rest out of the way
        const PartResult* part =
            session_->results().evaluation() ? session_->results().evaluation()->part(outline_->part()) : nullptr;
        std::erase_if(scene.bodies, [&](const SceneBody& b) { return b.part == outline_->part() || !b.stand_in; });
        // The part stands as it is drawn; the others stand round it as they do in the assembly.
        for (SceneBody& b : scene.bodies) {
            b.see_through = true;
            b.place = session_->results().place_of(outline_->part()).inverse() * b.place;
        }
        PartPtr source = session_->project()->part(outline_->part());
        if (part && source && part->before.count(outline_->step()))
            for (size_t i = 0; i < part->before.at(outline_->step()).size(); ++i) {
                SceneBody body;
                body.part = part->part;
                body.body = i;
                body.shape = part->before.at(outline_->step())[i].body.shared_tessellation();
                body.colour = QColor(QString::fromStdString(source->colour));
                scene.bodies.push_back(std::move(body));
            }
    }
    if (outline_ && outline_->active() && outline_->cut_away()) { // what stands over the drawing is taken off
        Vec3 n = -outline_->plane().linear().col(2);
        scene.section = Eigen::Vector4d(n.x(), n.y(), n.z(), -n.dot(outline_->plane().translation()));
    }
    bool was_empty = view_->scene().bodies.empty() && !(outline_ && outline_->active());
    view_->set_scene(std::move(scene));
    // The view shifts bodies from where the scene has them: at home.
    if (session_->results().is_showing_movement()) shift_led();
    if (TakenApart& apart = session_->taken_apart(); apart.is_apart()) apart.show(apart.together());
    if (handles_) place_handles();
    if (sizes_) place_size_handles();
    if (stands_) place_stand_handles();
    if (support_dots_) place_support_handles();
    if (brush_) place_brush();
    if (refit || was_empty) {
        // Checks and poses are about one part; the rest is about all of them.
        if (session_->workspace().stretch() == Stretch::Check)
            view_->fit_box(view_->scene().box_of(whole_part(session_->workspace().active_part())));
        else
            view_->fit_all();
    }
    keep_in_sight();
    auto marks = build_marks(*session_);
    // A row that was chosen brings its place into the middle, near enough to see.
    auto shown = std::tuple(session_->workspace().stretch(), session_->workspace().active_part(),
                            session_->workspace().active_contact(), session_->workspace().active_finding(),
                            session_->workspace().finding_place());
    bool fresh = shown != shown_place_;
    shown_place_ = shown;
    const Stretch stretch = session_->workspace().stretch();
    if (fresh && !marks.empty() &&
        (stretch == Stretch::Check ? session_->workspace().active_finding().has_value()
                                   : stretch == Stretch::Fit && session_->workspace().active_contact()))
        view_->go_to(marks.front().at);
    else if (fresh && stretch == Stretch::Bed)
        view_->fit_all();
    else if (fresh && stretch == Stretch::Check)
        view_->fit_box(view_->scene().box_of(whole_part(session_->workspace().active_part())));
    view_->set_marks(std::move(marks));
}

/// What the movement that is looked at leads.
void MainWindow::shift_led() {
    if (const Evaluation* evaluation = session_->results().evaluation())
        for (const PartResult& part : evaluation->parts)
            for (size_t i = 0; i < part.bodies.size(); ++i)
                view_->shift_bodies(part.part, i, session_->results().shifted(part.part, i));
    view_->set_marks(build_marks(*session_));
}

/// A change that pushes the part out of the picture, and a part chosen that is not in it, move the camera; one that the
/// maker has brought too near to see all is left alone.
void MainWindow::keep_in_sight() {
    const PartId part = session_->workspace().active_part();
    const Box3 box = view_->scene().box_of(whole_part(part)), before = std::exchange(seen_box_, box);
    const bool other = std::exchange(seen_part_, part) != part;
    if (box.isEmpty() || (outline_ && outline_->active())) return;
    if (other ? !view_->rect().contains(view_->project(box.center()).toPoint())
              : !before.isEmpty() && !box.isApprox(before) && (view_->is_gliding() || view_->sees(before)) &&
                    !view_->sees(box))
        view_->glide_to(box);
}

void MainWindow::show_message(const QString& message, bool wrong) {
    // What went wrong is never cut short: the whole sentence stands over the view until it is clicked away or replaced.
    if (!message_) {
        message_ = new QPushButton(view_);
        message_->setAccessibleName("Message");
        message_->setObjectName("message");
        auto* layout = new QHBoxLayout(message_);
        layout->setContentsMargins(14, 8, 12, 8);
        auto* words = new QLabel(message_);
        words->setWordWrap(true);
        words->setAttribute(Qt::WA_TransparentForMouseEvents);
        words->setFont(theme::words(13, QFont::DemiBold));
        words->setStyleSheet(QString("color: %1; border: none; background: transparent").arg(theme::css(Role::Wrong)));
        layout->addWidget(words);
        message_->setStyleSheet(
            QString(
                "QPushButton { text-align: left; background: %1; border: 1px solid %2; border-left: 4px solid %2; }")
                .arg(theme::css(Role::Card), theme::css(Role::Wrong)));
        connect(message_, &QPushButton::clicked, message_, &QWidget::hide);
    }
    message_->setVisible(wrong);
    if (!wrong) return;
    auto* words = message_->findChild<QLabel*>();
    words->setText(as_shown(message));
    int width = std::min(560, view_->width() - 40);
    int height = words->heightForWidth(width - 30) + 20;
    message_->setGeometry((view_->width() - width) / 2, view_->height() - height - 14, width, height);
    message_->raise();
}

} // namespace lp
