#include "app/panels/assembly_section.h"
#include "app/panels/typed_lines.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/standing.h"
#include "project/way_out.h"
#include <QHBoxLayout>
#include <QPushButton>
#include <QSlider>

namespace lp {

using theme::Role;

namespace {
constexpr int parts_of_a_move = 100; ///< of the slider
}

AssemblySection::AssemblySection(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    const auto& moves = session->taken_apart().moves();
    column->addWidget(make_heading("Put together", moves.empty() ? "" : QString("%1 moves").arg(moves.size()), this));
    auto* line = new QWidget(this);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(theme::margin, 4, theme::margin, 4);
    const bool wanted = session->taken_apart().is_wanted();
    begin_ = new QPushButton(wanted ? "Put it away" : "In which order", line);
    begin_->setObjectName("assembly-begin");
    begin_->setToolTip("Works out in which order the parts go together, from where each comes in, and what would be in "
                       "its way");
    connect(
        begin_, &QPushButton::clicked, session,
        [session] {
            if (session->taken_apart().is_wanted())
                session->taken_apart().let_be();
            else
                session->taken_apart().work_out();
        },
        Qt::QueuedConnection);
    row->addWidget(begin_);
    if (!session->project()->assembly.empty()) {
        auto* anew = new QPushButton("As worked out", line);
        anew->setFlat(true);
        anew->setToolTip("Forgets the order that was set by hand");
        connect(
            anew, &QPushButton::clicked, session, [session] { session->document().edit(SetAssembly{{}}); },
            Qt::QueuedConnection);
        row->addWidget(anew);
    }
    row->addStretch();
    column->addWidget(line);
    if (!wanted) return;
    if (moves.empty()) {
        column->addWidget(make_note("Working it out …", false, this));
        return;
    }
    add_moves();
}

void AssemblySection::add_moves() {
    auto* column = static_cast<QVBoxLayout*>(layout());
    const TakenApart& apart = session_->taken_apart();
    slider_ = new QSlider(Qt::Horizontal, this);
    slider_->setObjectName("assembly-slider");
    slider_->setAccessibleName("How much is put together");
    slider_->setToolTip("Left: taken apart; right: put together");
    slider_->setRange(parts_of_a_move, int(apart.moves().size()) * parts_of_a_move);
    slider_->setPageStep(parts_of_a_move);
    slider_->setSingleStep(parts_of_a_move / 10);
    slider_->setValue(int(std::min(apart.together(), double(apart.moves().size())) * parts_of_a_move));
    auto* line = new QWidget(this);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(theme::margin, 2, theme::margin, 2);
    row->addWidget(slider_);
    column->addWidget(line);
    words_ = make_note({}, false, this);
    column->addWidget(words_);
    QStringList standing;
    for (const std::string& one : standing_of(*session_->results().evaluation()).words())
        standing << QString::fromStdString(one);
    if (!standing.isEmpty())
        column->addWidget(make_note(as_shown("As it stands: " + standing.join(", ") + "."), false, this));
    connect(slider_, &QSlider::valueChanged, this, [this](int value) {
        session_->taken_apart().show(double(value) / parts_of_a_move);
        tell();
    });
    for (size_t i = 0; i < apart.moves().size(); ++i) add_move(i, column);
    tell();
}

void AssemblySection::add_move(size_t i, QVBoxLayout* column) {
    const AssemblyMove& move = session_->taken_apart().moves()[i];
    auto* line = new QWidget(this);
    auto* row = new QHBoxLayout(line);
    row->setContentsMargins(theme::margin, 1, theme::margin, 1);
    auto* label = new QLabel(as_shown(QString("%1. <b>%2</b>: %3")
                                          .arg(i + 1)
                                          .arg(QString::fromStdString(move.name).toHtmlEscaped(),
                                               QString::fromStdString(move.words()).toHtmlEscaped())),
                             line);
    label->setWordWrap(true);
    label->setFont(theme::words(12.5));
    if (!move.in_the_way.empty()) label->setStyleSheet(QString("color: %1").arg(theme::css(Role::Wrong)));
    row->addWidget(label, 1);
    auto* earlier = new QPushButton("Earlier", line);
    earlier->setFlat(true);
    earlier->setEnabled(i > 0);
    earlier->setAccessibleName(QString::fromStdString(move.name) + " one place earlier");
    connect(
        earlier, &QPushButton::clicked, session_, [s = session_, i] { s->taken_apart().reorder(i, -1); },
        Qt::QueuedConnection);
    row->addWidget(earlier);
    const PartPtr part = session_->project()->part(move.part);
    column->addWidget(line);
    moves_.push_back(label);
    earlier_.push_back(earlier);
    ways_.push_back(nullptr);
    if (!part || move.from.isZero()) return; // it comes from nowhere
    if (move.part == session_->workspace().active_part()) add_way(*part, column);
    if (move.in_the_way.empty() && part->way_out.empty()) return;
    auto* way = new QPushButton("Its way", line);
    way->setFlat(true);
    way->setAccessibleName("The way " + QString::fromStdString(move.name) + " is led");
    way->setToolTip("Where no straight way is free: leg by leg, or along a drawn line");
    connect(
        way, &QPushButton::clicked, this, [this, part = move.part] { emit way_wanted(part); }, Qt::QueuedConnection);
    row->addWidget(way);
    ways_.back() = way;
}

void AssemblySection::add_way(const Part& part, QVBoxLayout* column) {
    TypedLines<TypedLeg> lines{session_, part.id, &Part::way_out, "leg %1 of its way", {}, {}, {}, {}};
    lines.words = [](const Part&, const TypedLeg& leg) {
        return as_shown(QString::fromStdString("Out of its place " + leg_words(leg)));
    };
    lines.typed = [](const TypedLeg& leg) { return leg.to + " " + leg.by; };
    lines.read = leg_typed;
    lines.edit = [](PartId id, std::vector<TypedLeg> all) -> Edit { return SetWayOut{id, std::move(all)}; };
    way_field_ = add_typed_lines(
        this, column, part, lines, "A leg out, as up 12",
        "the way it is led out of its place, leg by leg: up 12, then left 40; or along a drawn line: along Path");
    way_field_->setObjectName("assembly-way");
}

/// The part that is on its way; of whole moves the last that is in place.
void AssemblySection::tell() {
    const auto& moves = session_->taken_apart().moves();
    if (!words_ || moves.empty()) return;
    const double together = std::min(session_->taken_apart().together(), double(moves.size()));
    const size_t now = std::clamp(size_t(std::ceil(together - 1e-9)), size_t(1), moves.size()) - 1;
    words_->setText(
        as_shown(QString("%1 of %2: %3, %4.")
                     .arg(now + 1)
                     .arg(moves.size())
                     .arg(QString::fromStdString(moves[now].name), QString::fromStdString(moves[now].words()))));
}

QString AssemblySection::words() const {
    return words_ ? words_->text() : QString();
}
QString AssemblySection::move_words(size_t move) const {
    return move < moves_.size() ? moves_[move]->text() : QString();
}
QPushButton* AssemblySection::way_button(size_t move) const {
    return move < ways_.size() ? ways_[move] : nullptr;
}
QPushButton* AssemblySection::earlier_button(size_t move) const {
    return move < earlier_.size() ? earlier_[move] : nullptr;
}

} // namespace lp
