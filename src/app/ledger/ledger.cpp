#include "app/ledger/ledger.h"
#include "app/offers/offers_bar.h"
#include "app/panels/fit_panel.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include <QHeaderView>
#include <QIcon>
#include <QPainter>
#include <QPushButton>
#include <QShortcut>
#include <QTableWidget>
#include <QVBoxLayout>

namespace lp {

using theme::Role;

namespace {
QString n2(double v) {
    return QString::fromStdString(format_fixed(v, 2));
}

QIcon row_icon(bool contact, FitState ring, const QString& mark) {
    QPixmap pixmap(36, 36);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    if (contact)
        theme::draw_fit_ring(p, QRectF(0, 0, 36, 36), ring);
    else
        theme::draw_finding(p, QRectF(0, 0, 36, 36), mark);
    p.end();
    return QIcon(pixmap);
}
} // namespace

Ledger::Ledger(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setAccessibleName("Ledger");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, theme::ledger_height);
    column->setSpacing(0);
    table_ = new QTableWidget(this);
    table_->setColumnCount(4);
    table_->setHorizontalHeaderLabels({"What", "Wanted", "Found", "Says"});
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->verticalHeader()->hide();
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setShowGrid(false);
    table_->setAccessibleName("Contacts, findings and files");
    table_->setIconSize(QSize(18, 18));
    table_->hide();
    column->addWidget(table_);
    auto jump = [this](int row) {
        if (row >= 0 && size_t(row) < rows_.size() && rows_[size_t(row)].jump) {
            auto go = rows_[size_t(row)].jump;
            go();
        }
    };
    connect(table_, &QTableWidget::cellClicked, this, [jump](int row, int) { jump(row); });
    connect(table_, &QTableWidget::cellActivated, this, [jump](int row, int) { jump(row); });
    auto* remove = new QShortcut(QKeySequence(Qt::Key_Delete), table_);
    remove->setContext(Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, this, [this] {
        int row = table_->currentRow();
        if (row < 0 || size_t(row) >= rows_.size()) return;
        if (auto drop = rows_[size_t(row)].drop)
            drop();
        else
            session_->say("Only measurements can be dropped here.", true);
    });
    toggle_ = new QPushButton("Open the ledger", this);
    toggle_->setFlat(true);
    toggle_->setStyleSheet(QString("color: %1; font-weight: 700;").arg(theme::css(Role::Accent)));
    connect(toggle_, &QPushButton::clicked, this, [this] { set_open(!open_); });
    message_timer_.setSingleShot(true);
    connect(&message_timer_, &QTimer::timeout, this, [this] {
        message_.clear();
        update();
    });
    connect(session, &Session::said, this, [this](const QString& message, bool wrong) {
        message_ = message;
        wrong_ = wrong;
        message_timer_.start(wrong ? 15000 : 6000);
        setAccessibleDescription(message);
        update();
    });
    for (auto signal : {&Session::analysed, &Session::evaluated, &Session::exported, &Session::selection_changed})
        connect(session, signal, this, &Ledger::fill);
    set_open(false);
}

void Ledger::set_open(bool open) {
    open_ = open;
    table_->setVisible(open);
    toggle_->setText(open ? "Close the ledger" : "Open the ledger");
    setFixedHeight(theme::ledger_height + (open ? 210 : 0));
    fill();
}

int Ledger::count(FitState state) const {
    int n = 0;
    if (session_->analysis())
        for (const ContactResult& c : session_->analysis()->contacts) n += c.state == state;
    return n;
}

std::vector<Ledger::Row> Ledger::rows() const {
    std::vector<Row> rows;
    const Analysis* analysis = session_->analysis();
    const Evaluation* evaluation = session_->evaluation();
    if (!analysis || !evaluation) return rows;
    for (size_t i = 0; i < analysis->contacts.size(); ++i) {
        const ContactResult& c = analysis->contacts[i];
        Row row;
        row.contact = true;
        row.ring = c.state;
        row.what = contact_title(c);
        row.wanted = c.wanted ? QString::fromStdString(find_fit(session_->project()->fits, c.fit) ? c.fit : "typed") +
                                    " " + n2(c.wanted->gap_mm) + " mm"
                              : "not set";
        if (c.gap)
            row.found = n2(c.gap->min_mm) +
                        (c.gap->max_mm && *c.gap->max_mm - c.gap->min_mm > 0.015 ? " … " + n2(*c.gap->max_mm) : "") +
                        " mm";
        else
            row.found = "far apart";
        row.says = theme::fit_state_words(c.state);
        if (c.wanted) row.says += "; " + QString::fromStdString(c.wanted->sum);
        if (c.gap && c.gap->overlap_mm3 > 0) row.says = QString("both fill %1 mm³").arg(n2(c.gap->overlap_mm3));
        if (c.facing)
            row.says += QString("; mean %1 mm over %2 mm²").arg(n2(c.facing->mean_mm), n2(c.facing->area_mm2));
        if (QString warning = contact_warning(c); !warning.isEmpty()) row.says = warning + "; " + row.says;
        row.jump = [this, i] {
            session_->set_stretch(Stretch::Fit);
            session_->set_active_contact(int(i));
        };
        rows.push_back(std::move(row));
    }
    for (const MeasureResult& measure : analysis->measures) {
        Row row;
        row.mark = measure.found ? "measure" : "failed";
        auto name = [&](const MeasuredThing& thing) {
            PartPtr part = session_->project()->part(thing.part);
            return part ? QString::fromStdString(part->name) : QString("a part that is gone");
        };
        for (const KeptMeasure& kept : session_->project()->measures)
            if (kept.id == measure.id)
                row.what = !kept.b                       ? "Wall of " + name(kept.a)
                           : kept.a.part == kept.b->part ? "Measured on " + name(kept.a)
                                                         : "From " + name(kept.a) + " to " + name(*kept.b);
        row.found = measure.found ? n2(measure.found->distance_mm) + " mm" : "lost";
        row.says =
            measure.found ? measure_words(*measure.found).section(" · ", 1) : QString::fromStdString(measure.lost);
        if (!row.says.isEmpty()) row.says += "; ";
        row.says += "Delete drops it";
        row.jump = [] {};
        row.drop = [this, id = measure.id] { session_->edit(RemoveMeasure{id}); };
        rows.push_back(std::move(row));
    }
    for (const PartResult& part : evaluation->parts)
        for (size_t i = 0; i < part.steps.size(); ++i) {
            const StepOutcome& step = part.steps[i];
            const Step* source = session_->project()->step(part.part, step.step);
            bool mended = source && source->kind == "mend" && step.ok && source->on;
            if (step.ok && !mended) continue;
            Row row;
            row.mark = mended ? "sound" : "failed";
            row.what = QString::fromStdString(part.name) + QString(", step %1").arg(i + 1);
            row.found = mended ? "mended" : "failed";
            row.says = QString::fromStdString(step.says);
            row.jump = [this, id = part.part] {
                session_->set_stretch(Stretch::Shape);
                session_->set_active_part(id);
            };
            rows.push_back(std::move(row));
        }
    for (const auto& part : analysis->parts) {
        PartPtr its = session_->project()->part(part->part);
        if (!its) continue;
        auto jump = [this, id = part->part](int finding) {
            return [this, id, finding] {
                session_->set_stretch(Stretch::Check);
                session_->set_active_part(id);
                session_->set_active_finding(finding);
            };
        };
        for (size_t i = 0; i < part->inspection.findings.size(); ++i) {
            const Finding& f = part->inspection.findings[i];
            rows.push_back({QString::fromStdString(f.kind), FitState::Unset, false, QString::fromStdString(its->name),
                            "", QString::fromStdString(f.title) + (f.count > 1 ? " · " + QString::number(f.count) : ""),
                            QString::fromStdString(f.says), jump(int(i))});
        }
        if (part->plan && !part->plan->islands.empty()) {
            const Island& first = part->plan->islands.front();
            rows.push_back({"mid_air", FitState::Unset, false, QString::fromStdString(its->name), "",
                            QString("Starts in mid-air · %1").arg(part->plan->islands.size()),
                            QString("first at z %1 mm, %2 mm²").arg(n2(first.z_mm), n2(first.area_mm2)), jump(-1)});
        }
        if (!part->pose_note.empty())
            rows.push_back({"flipped", FitState::Unset, false, QString::fromStdString(its->name), "", "Pose",
                            QString::fromStdString(part->pose_note), jump(-1)});
    }
    for (const ReadBack& back : session_->last_export())
        rows.push_back({back.same ? "sound" : "failed",
                        FitState::Unset,
                        false,
                        QString::fromStdString(back.name),
                        QString::fromStdString(back.file.filename().string()),
                        back.same ? "as meant" : "differs",
                        QString::fromStdString(back.says),
                        {}});
    return rows;
}

void Ledger::fill() {
    update();
    if (!open_) return;
    rows_ = rows();
    int keep = table_->currentRow();
    table_->setRowCount(int(rows_.size()));
    for (int r = 0; r < int(rows_.size()); ++r) {
        const Row& row = rows_[size_t(r)];
        auto cell = [&](int column, const QString& text, bool number) {
            auto* item = new QTableWidgetItem(text);
            item->setToolTip(text);
            if (number) item->setFont(theme::numbers(12.5));
            table_->setItem(r, column, item);
            return item;
        };
        cell(0, row.what, false)->setIcon(row_icon(row.contact, row.ring, row.mark));
        cell(1, row.wanted, true);
        cell(2, row.found, true);
        cell(3, row.says, false);
        // A long report takes the lines it needs.
        int room = std::max(200, table_->viewport()->width() - 260 - 150 - 190 - 24);
        int needed =
            QFontMetrics(table_->font()).boundingRect(QRect(0, 0, room, 1000), Qt::TextWordWrap, row.says).height() +
            10;
        table_->setRowHeight(r, std::max(theme::row_height, needed));
    }
    table_->setColumnWidth(0, 260);
    table_->setColumnWidth(1, 150);
    table_->setColumnWidth(2, 190);
    if (keep >= 0 && keep < table_->rowCount()) table_->setCurrentCell(keep, 0);
}

QRectF Ledger::line_rect() const {
    return {0.0, double(height() - theme::ledger_height), double(width()), double(theme::ledger_height)};
}

namespace {

constexpr FitState counted[] = {FitState::Right, FitState::Tight, FitState::Slack, FitState::Touching,
                                FitState::Overlapping};

/// After a number: "3 touching".
QString count_words(FitState state, int n) {
    switch (state) {
    case FitState::Right:
        return n == 1 ? "contact right" : "contacts right";
    case FitState::Touching:
        return "touching";
    case FitState::Overlapping:
        return "overlapping";
    default:
        return theme::fit_state_words(state);
    }
}

/// The price is in the maker's own money, whatever that is.
QString print_words(const Analysis& analysis) {
    return QString::fromStdString(format_duration(analysis.time_s) + " · " + format_number(analysis.mass_g, 1) +
                                  " g · costs " + format_fixed(analysis.price, 2));
}

} // namespace

QString Ledger::line() const {
    QStringList words;
    for (FitState state : counted)
        if (int n = count(state)) words << QString("%1 %2").arg(n).arg(count_words(state, n));
    if (session_->analysis() && session_->analysis()->time_s > 0)
        words << "about " + print_words(*session_->analysis());
    return words.join(" · ");
}

void Ledger::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    QRectF r = line_rect();
    p.fillRect(rect(), theme::colour(Role::Card));
    p.fillRect(r, theme::colour(Role::LedgerGround));
    p.fillRect(QRectF(0, 0, width(), 1), theme::colour(Role::Line));
    toggle_->setGeometry(width() - 150, int(r.top()) + 5, 140, 30);
    double x = theme::margin, y = r.center().y();
    auto words = [&](const QString& text, const QFont& font, Role role) {
        p.setFont(font);
        p.setPen(theme::colour(role));
        double w = p.fontMetrics().horizontalAdvance(text);
        p.drawText(QRectF(x, r.top(), w + 4, r.height()), Qt::AlignVCenter, text);
        x += w;
    };
    for (FitState state : counted) {
        int n = count(state);
        if (!n) continue;
        theme::draw_fit_ring(p, QRectF(x, y - 10, 20, 20), state);
        x += 27;
        words(QString::number(n), theme::numbers(13), Role::Ink);
        x += 6;
        words(count_words(state, n), theme::words(13), Role::SoftInk);
        x += 20;
    }
    if (const Analysis* analysis = session_->analysis(); analysis && analysis->time_s > 0) {
        words("about ", theme::words(13), Role::SoftInk);
        words(print_words(*analysis), theme::numbers(13), Role::Ink);
        x += 24;
    }
    if (!message_.isEmpty()) {
        p.setFont(theme::words(13, wrong_ ? QFont::DemiBold : QFont::Medium));
        p.setPen(theme::colour(wrong_ ? Role::Wrong : Role::Ink));
        double room = width() - 160 - x;
        p.drawText(QRectF(x, r.top(), room, r.height()), Qt::AlignVCenter,
                   p.fontMetrics().elidedText(message_, Qt::ElideRight, int(room)));
    }
    setToolTip(message_);
}

} // namespace lp
