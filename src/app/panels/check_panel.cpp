#include "app/panels/check_panel.h"
#include "app/theme/theme.h"
#include <QHBoxLayout>
#include <QPushButton>

namespace lp {

using theme::Role;

namespace {

/// The scale of the hanging map: smooth up to the limit, hatched beyond.
class HangingLegend : public QWidget {
  public:
    HangingLegend(double limit, QWidget* parent) : QWidget(parent), limit_(limit) { setFixedHeight(46); }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        QRectF bar(theme::margin, 4, width() - 2 * theme::margin, 14);
        double split = bar.left() + bar.width() * limit_ / 90;
        QLinearGradient near(bar.left() + (split - bar.left()) * 0.5, 0, split, 0);
        QColor plain = theme::colour(Role::Mat), hang = theme::colour(Role::Hanging);
        near.setColorAt(0, plain);
        near.setColorAt(1, QColor::fromRgbF(float(plain.redF() * 0.65 + hang.redF() * 0.35),
                                            float(plain.greenF() * 0.65 + hang.greenF() * 0.35),
                                            float(plain.blueF() * 0.65 + hang.blueF() * 0.35)));
        p.fillRect(QRectF(bar.left(), bar.top(), split - bar.left(), bar.height()), near);
        QRectF beyond(split, bar.top(), bar.right() - split, bar.height());
        p.fillRect(beyond, hang);
        p.setClipRect(beyond);
        p.setPen(QPen(theme::colour(Role::HangingHatch), 2));
        for (double x = beyond.left() - 14; x < beyond.right(); x += 7)
            p.drawLine(QPointF(x, beyond.bottom()), QPointF(x + 14, beyond.top()));
        p.setClipping(false);
        p.setPen(theme::colour(Role::SoftInk));
        p.setBrush(Qt::NoBrush);
        p.drawRect(bar);
        p.setFont(theme::numbers(11.5));
        p.drawText(QRectF(bar.left(), 22, 60, 16), Qt::AlignLeft, "0°, a wall");
        p.drawText(QRectF(split - 30, 22, 60, 16), Qt::AlignHCenter,
                   QString::fromStdString(format_number(limit_)) + "°");
        p.drawText(QRectF(bar.right() - 80, 22, 80, 16), Qt::AlignRight, "90°, a roof");
    }

  private:
    double limit_;
};

} // namespace

CheckPanel::CheckPanel(Session* session, QWidget* parent) : Column(parent), session_(session) {
    setAccessibleName("Findings");
    for (auto signal : {&Session::analysed, &Session::evaluated, &Session::selection_changed})
        connect(session, signal, this, &CheckPanel::refresh);
    refresh();
}

void CheckPanel::rebuild() {
    clear();
    findings_.clear();
    mend_ = nullptr;
    const Analysis* analysis = session_->analysis();
    PartPtr part = session_->project()->part(session_->active_part());
    const PartAnalysis* mine = analysis && part ? analysis->part(part->id) : nullptr;
    QString name = part ? QString::fromStdString(part->name) : QString();
    if (!mine) {
        body()->addWidget(make_heading("Findings", name, this));
        body()->addWidget(
            make_note(part && part->stand_in
                          ? "A stand-in is never printed, so there is nothing to check. Choose a part on the shelf."
                          : "Choose a part with a body on the shelf, and what would go wrong in print stands here.",
                      false, this));
        body()->addStretch();
        return;
    }
    const auto& list = mine->inspection.findings;
    body()->addWidget(make_heading(
        "Findings", QString("%1 in %2").arg(list.size() + (mine->plan && !mine->plan->islands.empty())).arg(name),
        this));
    auto add = [&](const QString& title, const QString& says, const QString& kind, int index) {
        auto* row = new MarkRow(title, says, this);
        row->set_finding(kind);
        row->set_active(session_->active_finding() == index);
        connect(
            row, &MarkRow::chosen, session_, [s = session_, index] { s->set_active_finding(index); },
            Qt::QueuedConnection);
        findings_.push_back(row);
        body()->addWidget(row);
    };
    for (size_t i = 0; i < list.size(); ++i)
        add(QString::fromStdString(list[i].title) +
                (list[i].count > 1 && list[i].kind != "hanging" ? QString(" · %1").arg(list[i].count) : ""),
            QString::fromStdString(list[i].says), QString::fromStdString(list[i].kind), int(i));
    if (mine->plan && !mine->plan->islands.empty()) {
        const Island& first = mine->plan->islands.front();
        add(QString("Starts in mid-air · %1").arg(mine->plan->islands.size()),
            QString("first at z %1 mm, %2 mm²")
                .arg(QString::fromStdString(format_fixed(first.z_mm, 2)),
                     QString::fromStdString(format_number(first.area_mm2, 1))),
            "mid_air", 1000);
    }
    if (list.empty() && (!mine->plan || mine->plan->islands.empty()))
        body()->addWidget(make_note("Nothing is wrong with it as it lies.", false, this));
    const PartResult* result = session_->evaluation() ? session_->evaluation()->part(part->id) : nullptr;
    bool needs_mending = result && !result->exact && !mine->inspection.soundness.sound();
    if (needs_mending) {
        auto* row = new QWidget(this);
        auto* box = new QHBoxLayout(row);
        box->setContentsMargins(theme::margin, 8, theme::margin, 4);
        mend_ = new QPushButton("Mend " + name, row);
        mend_->setProperty("primary", true);
        mend_->setToolTip("Adds one step that welds, turns and closes; it can be undone and its numbers changed");
        connect(mend_, &QPushButton::clicked, session_, [s = session_, id = part->id] {
            Step step;
            step.kind = "mend";
            s->edit(AddStep{id, step, {}});
        });
        box->addWidget(mend_);
        body()->addWidget(row);
    }
    if (result)
        for (const StepOutcome& outcome : result->steps) {
            const Step* step = session_->project()->step(part->id, outcome.step);
            if (step && step->kind == "mend" && outcome.ok && step->on)
                body()->addWidget(make_note(QString::fromStdString(outcome.says), false, this));
        }
    body()->addWidget(make_heading("Hanging", "map on the part, from vertical", this));
    body()->addWidget(new HangingLegend(session_->project()->printer.overhang_limit_deg, this));
    body()->addWidget(make_heading("Soundness", "every printed part", this));
    for (const auto& other : analysis->parts) {
        PartPtr its = session_->project()->part(other->part);
        const PartResult* made = session_->evaluation()->part(other->part);
        if (!its || !made) continue;
        const Soundness& s = other->inspection.soundness;
        bool sound = s.sound();
        auto* row =
            new MarkRow(QString::fromStdString(its->name),
                        sound ? QString("sound · %1, %2 facets").arg(made->exact ? "exact" : "faceted").arg(s.triangles)
                              : QString("%1 open edges · %2 flipped · %3 doubled")
                                    .arg(s.open_edges.count)
                                    .arg(s.flipped.count)
                                    .arg(s.duplicate.count),
                        this);
        row->set_finding(sound ? "sound" : "open");
        connect(
            row, &MarkRow::chosen, session_, [s = session_, id = other->part] { s->set_active_part(id); },
            Qt::QueuedConnection);
        body()->addWidget(row);
    }
    body()->addStretch();
}

} // namespace lp
