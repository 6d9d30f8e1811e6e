#include "app/view/view_tools.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include <QBoxLayout>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFileDialog>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>

namespace lp {

using theme::Role;

ViewTools::ViewTools(Session* session, ViewWidget* view) : QWidget(view), session_(session), view_(view) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 10, 0, 0);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    column->addLayout(row);
    auto button = [&](const QString& words, const QString& hint, auto call) {
        auto* b = new QPushButton(words, this);
        b->setToolTip(hint);
        connect(b, &QPushButton::clicked, this, call);
        row->addWidget(b);
        return b;
    };
    button("All", "Shows everything (Home)", [this] { view_->fit_all(); });
    button("Square on", "Looks straight at the chosen face, or along the nearest axis", [this] { square_on(); });
    auto* edges = button("Edges", "Draws the edges", [] {});
    edges->setCheckable(true);
    edges->setChecked(true);
    connect(edges, &QPushButton::toggled, this, [this](bool on) {
        view_->setProperty("edges", on);
        emit drawing_changed();
    });
    view_->setProperty("edges", true);
    auto* more = new QPushButton("Look …", this);
    more->setToolTip("From which side, with or without depth, one part alone, a section, a picture");
    connect(more, &QPushButton::clicked, this, [this, more] { open_menu(more); });
    row->addWidget(more);
    row->addStretch();
    bar_ = make_section_bar();
    column->addWidget(bar_, 0, Qt::AlignLeft);
    bar_->hide();
    adjustSize();
}

void ViewTools::square_on() {
    Vec3 direction = view_->camera().forward();
    if (!session_->workspace().selection().empty())
        if (const FaceInfo* face = session_->results().face_of(session_->workspace().selection().back())) {
            Transform place = session_->workspace().stretch() == Stretch::Bed
                                  ? session_->results().pose_of(session_->workspace().selection().back().part)
                                  : Transform::Identity();
            view_->camera().look_along(-(place.linear() * face->direction));
            return view_->refresh();
        }
    int axis;
    direction.cwiseAbs().maxCoeff(&axis);
    Vec3 straight = Vec3::Zero();
    straight[axis] = direction[axis] < 0 ? -1 : 1;
    view_->camera().look_along(straight);
    view_->refresh();
}

void ViewTools::open_menu(QPushButton* at) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    auto look = [&](const char* words, const Vec3& along) {
        connect(menu->addAction(words), &QAction::triggered, this, [this, along] {
            view_->camera().look_along(along);
            view_->fit_all();
        });
    };
    look("From the front", Vec3::UnitY());
    look("From the back", -Vec3::UnitY());
    look("From the left", Vec3::UnitX());
    look("From the right", -Vec3::UnitX());
    look("From above", -Vec3::UnitZ());
    look("From below", Vec3::UnitZ());
    look("From a corner", Vec3(-1, 1.4, -0.85));
    menu->addSeparator();
    auto tick = [&](const QString& words, bool on, auto call) {
        QAction* action = menu->addAction(words);
        action->setCheckable(true);
        action->setChecked(on);
        connect(action, &QAction::toggled, this, call);
    };
    tick("With depth (perspective)", view_->camera().perspective, [this](bool on) {
        view_->camera().perspective = on;
        view_->refresh();
    });
    tick("Edges only", view_->property("edges_only").toBool(), [this](bool on) {
        view_->setProperty("edges_only", on);
        emit drawing_changed();
    });
    if (PartPtr part = session_->project()->part(session_->workspace().active_part()))
        for (bool ghosts : {false, true}) {
            const Workspace& place = session_->workspace();
            tick(QString::fromStdString(part->name) + (ghosts ? " alone, the others faint" : " alone"),
                 place.isolated() == part->id && place.ghosts() == ghosts, [this, id = part->id, ghosts](bool on) {
                     session_->workspace().isolate(on ? id : PartId(), on && ghosts);
                 });
        }
    tick("Section …", section_is_shown(), [this](bool on) { show_section(on); });
    menu->addSeparator();
    // Queued: the menu is gone before the dialog runs its own loop.
    connect(
        menu->addAction("Save a picture …"), &QAction::triggered, this,
        [this] {
            QString file = QFileDialog::getSaveFileName(this, "Save a picture", "view.png", "Pictures (*.png)");
            if (!file.isEmpty()) save_picture(file.endsWith(".png") ? file : file + ".png");
        },
        Qt::QueuedConnection);
    menu->popup(at->mapToGlobal(QPoint(0, at->height())));
}

bool ViewTools::save_picture(const QString& file) {
    if (view_->picture().save(file, "PNG")) {
        session_->say("Saved the picture as " + file + ".");
        return true;
    }
    session_->say("The picture could not be written to " + file + ". Choose another folder.", true);
    return false;
}

QWidget* ViewTools::make_section_bar() {
    auto* bar = new QWidget(this);
    bar->setObjectName("section");
    bar->setAutoFillBackground(true);
    QPalette palette = bar->palette();
    palette.setColor(QPalette::Window, theme::colour(Role::Card));
    bar->setPalette(palette);
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(8, 4, 8, 4);
    row->setSpacing(6);
    row->addWidget(new QLabel("Cut across", bar));
    way_ = new QComboBox(bar);
    way_->addItems({"x", "y", "z", "the chosen face"});
    way_->setAccessibleName("Way of the section");
    row->addWidget(way_);
    row->addWidget(new QLabel("at", bar));
    place_ = new QDoubleSpinBox(bar);
    place_->setRange(-1e5, 1e5);
    place_->setDecimals(inches_are_shown() ? 4 : 2);
    place_->setSingleStep(length_step_mm() / shown_unit_mm());
    place_->setSuffix(inches_are_shown() ? " in" : " mm");
    place_->setKeyboardTracking(false);
    place_->setAccessibleName("Place of the section");
    row->addWidget(place_);
    slider_ = new QSlider(Qt::Horizontal, bar);
    slider_->setRange(0, 1000);
    slider_->setFixedWidth(150);
    slider_->setAccessibleName("Moves the section");
    row->addWidget(slider_);
    flip_ = new QPushButton("Other side", bar);
    flip_->setCheckable(true);
    row->addWidget(flip_);
    auto* close = new QPushButton("Whole again", bar);
    row->addWidget(close);
    connect(close, &QPushButton::clicked, this, [this] { show_section(false); });
    connect(flip_, &QPushButton::toggled, this, &ViewTools::take_section);
    connect(place_, &QDoubleSpinBox::valueChanged, this, &ViewTools::take_section);
    connect(slider_, &QSlider::valueChanged, this, [this](int value) {
        auto [low, high] = section_span();
        place_->setValue((low + (high - low) * value / 1000.0) / shown_unit_mm());
    });
    connect(way_, &QComboBox::currentIndexChanged, this, [this](int index) {
        if (index == 3) {
            const FaceInfo* face = session_->workspace().selection().empty()
                                       ? nullptr
                                       : session_->results().face_of(session_->workspace().selection().back());
            if (!face) {
                session_->say("Choose a face first, then cut across it.", true);
                return way_->setCurrentIndex(2);
            }
            face_normal_ = face->direction;
            place_->setValue((face_normal_.dot(face->centre) - 0.01) / shown_unit_mm());
            return take_section();
        }
        auto [low, high] = section_span();
        QSignalBlocker quiet(place_);
        place_->setValue((low + high) / 2 / shown_unit_mm());
        take_section();
    });
    return bar;
}

bool ViewTools::section_is_shown() const {
    return session_->workspace().section().has_value();
}

void ViewTools::show_section(bool on) {
    bar_->setVisible(on);
    adjustSize();
    if (!on) return session_->workspace().set_section({});
    way_->setCurrentIndex(way_->currentIndex() == 3 ? 0 : way_->currentIndex());
    emit way_->currentIndexChanged(way_->currentIndex());
    place_->setFocus();
}

Vec3 ViewTools::section_normal() const {
    return way_->currentIndex() == 3 ? face_normal_ : Vec3(Vec3::Unit(way_->currentIndex()));
}

/// Of everything, along the way of the section.
std::pair<double, double> ViewTools::section_span() const {
    Box3 box;
    if (const Evaluation* evaluation = session_->results().evaluation())
        for (const PartResult& part : evaluation->parts)
            if (part.mesh) box.extend(part.box);
    if (box.isEmpty()) return {0, 1};
    double low = 1e300, high = -1e300;
    for (int i = 0; i < 8; ++i) {
        const double d = section_normal().dot(box.corner(Box3::CornerType(i)));
        low = std::min(low, d);
        high = std::max(high, d);
    }
    return {low, high};
}

void ViewTools::take_section() {
    Vec3 n = section_normal();
    double at = place_->value() * shown_unit_mm();
    const auto [low, high] = section_span();
    {
        const QSignalBlocker quiet(slider_); // it shows where the number is
        if (high > low) slider_->setValue(int(std::lround(1000 * std::clamp((at - low) / (high - low), 0.0, 1.0))));
    }
    if (flip_->isChecked()) n = -n, at = -at;
    session_->workspace().set_section(Eigen::Vector4d(-n.x(), -n.y(), -n.z(), at));
}

} // namespace lp
