#include "app/panels/settings_dialog.h"
#include "app/theme/theme.h"
#include "app/view/pointer_habits.h"
#include "app/widgets/column.h"
#include <QButtonGroup>
#include <QHBoxLayout>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

namespace lp {

using theme::Role;

namespace {

/// What this process was started at, in percent.
int size_of_process() {
    bool told = false;
    const double factor = qEnvironmentVariable("QT_SCALE_FACTOR").toDouble(&told);
    return told ? qRound(factor * 100) : 100;
}

/// A habit with its drawing: a mouse whose turning button is filled, or a touchpad with two fingers.
class HabitButton : public QPushButton {
  public:
    HabitButton(const PointerHabit& habit, QWidget* parent) : QPushButton(parent), habit_(habit) {
        setCheckable(true);
        setMinimumSize(208, 156);
        setAccessibleName(habit.name);
        setAccessibleDescription(lines().join("; "));
        setToolTip(lines().join("\n"));
    }

  protected:
    void paintEvent(QPaintEvent* event) override {
        QPushButton::paintEvent(event);
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QColor ink = theme::colour(isChecked() ? Role::OnAccent : Role::Ink);
        p.setPen(QPen(ink, 1.6));
        draw(p, QRectF(12, 12, 34, 46), ink);
        p.setFont(theme::words(13.5, QFont::Bold));
        p.drawText(QRectF(56, 12, width() - 64, 46), Qt::AlignVCenter | Qt::TextWordWrap, habit_.name);
        p.setFont(theme::words(11.5));
        p.drawText(QRectF(12, 64, width() - 24, height() - 70), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap,
                   lines().join("\n"));
    }

  private:
    QStringList lines() const { return {"Turn: " + habit_.turn, "Move: " + habit_.move, "Zoom: " + habit_.zoom}; }
    void draw(QPainter& p, const QRectF& r, const QColor& ink) const {
        if (habit_.habit == Settings::Pointer::Fingers) {
            p.drawRoundedRect(r.adjusted(0, 6, 0, -4), 4, 4);
            p.setBrush(ink);
            for (double x : {0.36, 0.64})
                p.drawEllipse(QPointF(r.left() + x * r.width(), r.center().y() - 2), 3.4, 3.4);
            p.setBrush(Qt::NoBrush);
            return;
        }
        QPainterPath body;
        body.addRoundedRect(r, 15, 15);
        p.drawPath(body);
        const QRectF left(r.left(), r.top(), r.width() / 2, 20), wheel(r.center().x() - 3.5, r.top() + 5, 7, 13);
        p.drawLine(QPointF(r.left(), r.top() + 20), QPointF(r.right(), r.top() + 20));
        p.drawLine(QPointF(r.center().x(), r.top()), QPointF(r.center().x(), r.top() + 20));
        QPainterPath turning;
        if (habit_.habit == Settings::Pointer::Bench)
            turning.addRect(left);
        else
            turning.addRoundedRect(wheel, 3, 3);
        p.fillPath(turning.intersected(body), ink);
        p.drawRoundedRect(wheel, 3, 3);
    }
    PointerHabit habit_;
};

} // namespace

SettingsDialog::SettingsDialog(QWidget* parent) : QDialog(parent), size_at_start_(size_of_process()) {
    setWindowTitle("Settings");
    setAccessibleName("Settings");
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(4, 6, 4, 10);
    rows->setSpacing(2);
    using S = Settings;
    add<S::Unit>(rows, "Lengths", &S::unit,
                 {{"Millimetres", "", S::Unit::Millimetre},
                  {"Inches", "Shown, and meant where no unit is typed; files stay in millimetres", S::Unit::Inch}});
    add<S::Look>(rows, "Look", &S::look,
                 {{"Paper", "Light", S::Look::Paper},
                  {"Night bench", "Dark, for the evening", S::Look::NightBench},
                  {"As the desktop", "Dark where the desktop is dark", S::Look::AsDesktop}});
    add<int>(rows, "Size of text and signs", &S::size_percent,
             {{"100 %", "", 100}, {"125 %", "", 125}, {"150 %", "", 150}, {"175 %", "", 175}, {"200 %", "", 200}});
    std::vector<std::tuple<QString, QString, S::Pointer>> habits;
    for (const PointerHabit& habit : pointer_habits()) habits.emplace_back(habit.name, "", habit.habit);
    add<S::Pointer>(rows, "Mouse and touchpad", &S::pointer, habits,
                    [this](size_t i) { return new HabitButton(pointer_habits()[i], this); });
    add<int>(rows, "What is not saved is written aside", &S::autosave_s,
             {{"after 4 s", "At most five seconds of work can be lost", 4},
              {"after 30 s", "", 30},
              {"after 2 min", "For slow disks and large meshes", 120}});
    says_ = make_note("", true, this);
    says_->hide();
    rows->addWidget(says_);
    auto* foot = new QHBoxLayout;
    foot->setContentsMargins(theme::margin, 8, theme::margin, 0);
    auto* again = new QPushButton("Begin again at this size", this);
    again->setObjectName("begin-again");
    again->setAutoDefault(false);
    again->setVisible(settings().size_percent != size_at_start_);
    connect(again, &QPushButton::clicked, this, &SettingsDialog::restart_wanted);
    again_ = again;
    auto* close = new QPushButton("Close", this);
    close->setAutoDefault(false);
    connect(close, &QPushButton::clicked, this, &QDialog::close);
    foot->addWidget(again);
    foot->addStretch();
    foot->addWidget(close);
    rows->addLayout(foot);
}

template <class Value>
void SettingsDialog::add(QVBoxLayout* rows, const QString& title, Value Settings::*what,
                         const std::vector<std::tuple<QString, QString, Value>>& choices,
                         const std::function<QPushButton*(size_t)>& drawn) {
    rows->addWidget(make_heading(title, "", this));
    auto* line = new QHBoxLayout;
    line->setContentsMargins(theme::margin, 0, theme::margin, 4);
    line->setSpacing(6);
    auto* group = new QButtonGroup(this);
    for (size_t i = 0; i < choices.size(); ++i) {
        const auto& [words, hint, value] = choices[i];
        QPushButton* button = drawn ? drawn(i) : new QPushButton(words, this);
        if (!drawn) {
            button->setCheckable(true);
            button->setToolTip(hint);
            button->setAccessibleName(title + ": " + words);
        }
        button->setObjectName("setting " + words);
        button->setAutoDefault(false);
        button->setChecked(settings().*what == value);
        group->addButton(button);
        connect(button, &QPushButton::clicked, this, [this, what, value = value] {
            Settings wanted = settings();
            wanted.*what = value;
            take(wanted);
        });
        line->addWidget(button);
    }
    line->addStretch();
    rows->addLayout(line);
}

QAbstractButton* SettingsDialog::choice(const QString& words) const {
    return findChild<QAbstractButton*>("setting " + words);
}

void SettingsDialog::take(const Settings& wanted) {
    QString problem;
    SettingsFile::only().set(wanted, &problem);
    says_->setText(problem.isEmpty() ? QString() : "They hold until the program ends: " + problem);
    says_->setVisible(!problem.isEmpty());
    again_->setVisible(settings().size_percent != size_at_start_);
}

} // namespace lp
