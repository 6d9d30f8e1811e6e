#include "app/ledger/ledger.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "project/contact_words.h"
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
QIcon row_icon(const theme::Mark& mark) {
    QPixmap pixmap(36, 36);
    pixmap.fill(Qt::transparent);
    QPainter p(&pixmap);
    theme::draw_mark(p, QRectF(0, 0, 36, 36), mark);
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
    connect(&session->document(), &Document::said, this, [this](const QString& message, bool wrong) {
        message_ = as_shown(message);
        wrong_ = wrong;
        message_timer_.start(wrong ? 15000 : 6000);
        setAccessibleDescription(message_);
        update();
    });
    connect(&session->workspace(), &Workspace::active_part_changed, this, &Ledger::fill);
    for (auto fact : {&Results::analysed, &Results::evaluated}) connect(&session->results(), fact, this, &Ledger::fill);
    connect(session, &Session::exported, this, &Ledger::fill);
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
    if (session_->results().analysis())
        for (const ContactResult& c : session_->results().analysis()->contacts) n += c.state == state;
    return n;
}

std::vector<Ledger::Row> Ledger::rows() const {
    std::vector<Row> rows;
    const Analysis* analysis = session_->results().analysis();
    const Evaluation* evaluation = session_->results().evaluation();
    if (!analysis || !evaluation) return rows;
    for (const ContactResult& c : analysis->contacts) rows.push_back(contact_row(c));
    for (const MeasureResult& measure : analysis->measures) rows.push_back(measure_row(measure));
    for (const PartFinding& f : all_findings(*evaluation, analysis)) rows.push_back(finding_row(f));
    add_reports(*evaluation, rows);
    for (const ReadBack& back : session_->last_export()) {
        Row row;
        row.mark = back.same ? theme::Outcome::Sound : theme::Outcome::Failed;
        row.what = QString::fromStdString(back.name);
        row.wanted = QString::fromStdString(back.file.filename().string());
        row.found = back.same ? "as meant" : "differs";
        row.says = QString::fromStdString(back.says);
        rows.push_back(std::move(row));
    }
    return rows;
}

Ledger::Row Ledger::contact_row(const ContactResult& c) const {
    Row row;
    row.mark = c.state;
    row.what = QString::fromStdString(contact_title(c));
    row.wanted = QString::fromStdString(wanted_words(*session_->project(), c));
    row.found = QString::fromStdString(found_words(c));
    const std::string moved = led_words(session_->results().led_of(c));
    row.says = QString::fromStdString(moved.empty() ? fit_state_words(c) : moved);
    if (c.wanted) row.says += "; " + QString::fromStdString(c.wanted->sum);
    if (c.gap && c.gap->overlap_mm3 > 0) row.says = QString("both fill %1 mm³").arg(two_places(c.gap->overlap_mm3));
    if (c.facing)
        row.says +=
            QString("; mean %1 mm over %2 mm²").arg(two_places(c.facing->mean_mm), two_places(c.facing->area_mm2));
    if (std::string warning = contact_warning(c); !warning.empty())
        row.says = QString::fromStdString(warning) + "; " + row.says;
    row.jump = [this, ref = c.ref()] {
        session_->workspace().set_stretch(Stretch::Fit);
        session_->workspace().set_active_contact(ref);
    };
    return row;
}

Ledger::Row Ledger::measure_row(const MeasureResult& measure) const {
    Row row;
    row.mark = measure.found ? theme::Outcome::Measure : theme::Outcome::Failed;
    auto name = [&](const MeasuredThing& thing) {
        PartPtr part = session_->project()->part(thing.part);
        return part ? QString::fromStdString(part->name) : QString("a part that is gone");
    };
    for (const KeptMeasure& kept : session_->project()->measures)
        if (kept.id == measure.id)
            row.what = !kept.b                       ? "Wall of " + name(kept.a)
                       : kept.a.part == kept.b->part ? "Measured on " + name(kept.a)
                                                     : "From " + name(kept.a) + " to " + name(*kept.b);
    row.found = measure.found ? two_places(measure.found->distance_mm) + " mm" : "lost";
    row.says = measure.found ? QString::fromStdString(measure_words(*measure.found)).section(" · ", 1)
                             : QString::fromStdString(measure.lost);
    if (!row.says.isEmpty()) row.says += "; ";
    if (measure.standing && std::fabs(measure.standing->distance_mm - measure.found->distance_mm) > 0.005)
        row.says += two_places(measure.standing->distance_mm) + " mm as it stands; ";
    row.says += "Delete drops it";
    row.drop = [this, id = measure.id] { session_->document().edit(RemoveMeasure{id}); };
    return row;
}

Ledger::Row Ledger::finding_row(const PartFinding& f) const {
    Row row;
    const FindingRow& kind = row_of(f.finding.kind);
    PartPtr part = session_->project()->part(f.ref.part);
    row.mark = kind.mark;
    row.what = part ? QString::fromStdString(part->name) : QString();
    row.found = QString::fromStdString(f.finding.title_and_count());
    row.says = QString::fromStdString(f.finding.says);
    row.jump = [this, ref = f.ref, shape = kind.stage == FindingStage::Shape] {
        session_->workspace().set_stretch(shape ? Stretch::Shape : Stretch::Check);
        session_->workspace().set_active_part(ref.part);
        if (!shape) session_->workspace().set_active_finding(ref);
    };
    return row;
}

/// What steps that mended something have to say.
void Ledger::add_reports(const Evaluation& evaluation, std::vector<Row>& rows) const {
    for (const PartResult& part : evaluation.parts)
        for (size_t i = 0; i < part.steps.size(); ++i) {
            const StepOutcome& outcome = part.steps[i];
            const Step* step = session_->project()->step(part.part, outcome.step);
            const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
            if (!kind || !kind->reports || !outcome.ok || !step->on) continue;
            Row row;
            row.mark = theme::Outcome::Sound;
            row.what = QString::fromStdString(part.name) + QString(", step %1").arg(i + 1);
            row.found = "mended";
            row.says = QString::fromStdString(outcome.says);
            row.jump = [this, id = part.part] {
                session_->workspace().set_stretch(Stretch::Shape);
                session_->workspace().set_active_part(id);
            };
            rows.push_back(std::move(row));
        }
}

void Ledger::fill() {
    update();
    if (!open_) return;
    rows_ = rows();
    int keep = table_->currentRow();
    table_->setRowCount(int(rows_.size()));
    for (int r = 0; r < int(rows_.size()); ++r) {
        Row& row = rows_[size_t(r)];
        for (QString* words : {&row.wanted, &row.found, &row.says}) *words = as_shown(*words);
        auto cell = [&](int column, const QString& text, bool number) {
            auto* item = new QTableWidgetItem(text);
            item->setToolTip(text);
            if (number) item->setFont(theme::numbers(12.5));
            table_->setItem(r, column, item);
            return item;
        };
        cell(0, row.what, false)->setIcon(row_icon(row.mark));
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

constexpr FitState states_counted[] = {FitState::Right, FitState::Tight, FitState::Slack, FitState::Touching,
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
        return QString::fromStdString(fit_state_words(state));
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
    for (FitState state : states_counted)
        if (int n = count(state)) words << QString("%1 %2").arg(n).arg(count_words(state, n));
    if (session_->results().analysis() && session_->results().analysis()->time_s > 0)
        words << "about " + print_words(*session_->results().analysis());
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
    for (FitState state : states_counted) {
        int n = count(state);
        if (!n) continue;
        theme::draw_fit_ring(p, QRectF(x, y - 10, 20, 20), state);
        x += 27;
        words(QString::number(n), theme::numbers(13), Role::Ink);
        x += 6;
        words(count_words(state, n), theme::words(13), Role::SoftInk);
        x += 20;
    }
    if (const Analysis* analysis = session_->results().analysis(); analysis && analysis->time_s > 0) {
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
