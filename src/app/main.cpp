// loose-peg [PROJECT or MESH ...] [--shot FILE [--stretch NAME] [--part NAME] [--size WxH] [--ledger]
//            [--map] [--movement POSITION] ...]
#include "app/ledger/ledger.h"
#include "app/settings.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include "app/window_keeper.h"
#include "shape/kernel_cache.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QProcess>
#include <QScreen>
#include <QTimer>
#include <cstdio>
#include <optional>

namespace {

void choose_contact(lp::Session& session, const QCommandLineParser& options) {
    if (!options.isSet("contact") || !session.results().analysis()) return;
    const auto& contacts = session.results().analysis()->contacts;
    if (size_t i = options.value("contact").toUInt(); i < contacts.size())
        session.workspace().set_active_contact(contacts[i].ref());
}

int take_shot(lp::MainWindow& window, lp::Session& session, const QCommandLineParser& options) {
    qApp->setProperty("still", true); // whatever is grabbed is drawn first
    session.wait_until_done();
    for (const lp::PartPtr& part : session.project()->parts)
        if (QString::fromStdString(part->name) == options.value("part")) session.workspace().set_active_part(part->id);
    const QStringList names{"Shape", "Fit", "Check", "Bed", "Export"};
    if (int stretch = int(names.indexOf(options.value("stretch"))); stretch >= 0)
        session.workspace().set_stretch(lp::Stretch(stretch));
    choose_contact(session, options);
    if (options.isSet("finding")) {
        auto found = lp::findings_of_part(*session.results().evaluation(), session.results().analysis(),
                                          session.workspace().active_part());
        if (size_t i = options.value("finding").toUInt(); i < found.size())
            session.workspace().set_active_finding(found[i].ref);
    }
    if (options.isSet("cut")) session.workspace().set_cut_height(options.value("cut").toDouble());
    if (options.isSet("map")) session.workspace().want_gap_map(true);
    if (options.isSet("ledger")) window.ledger()->set_open(true);
    session.wait_until_done();
    for (int i = 0; i < 10; ++i) QApplication::processEvents();
    if (options.isSet("fit-part")) {
        session.workspace().select({lp::Pick::Kind::Body, session.workspace().active_part(), 0, 0, {}}, false);
        for (int i = 0; i < 10; ++i) QApplication::processEvents(); // the scene knows of it then
        window.view()->fit_selection();
        session.workspace().clear_selection();
        choose_contact(session, options);
    }
    if (options.isSet("draw"))
        if (lp::PartPtr part = session.project()->part(session.workspace().active_part());
            part && size_t(options.value("draw").toInt() - 1) < part->steps.size())
            session.draw_outline(part->id, part->steps[size_t(options.value("draw").toInt() - 1)].id);
    for (int i = 0; i < 10; ++i) QApplication::processEvents();
    if (options.isSet("movement") && !session.project()->movements.empty()) {
        lp::MovementId id = session.project()->movements.front().id;
        session.wait_until_done();
        session.results().check_movement(id);
        session.wait_until_done();
        session.results().show_movement(id, options.value("movement").toDouble());
    }
    for (int i = 0; i < 10; ++i) QApplication::processEvents();
    if (window.grab().save(options.value("shot"))) return 0;
    std::fprintf(stderr, "loose-peg: the picture could not be written to %s\n", qPrintable(options.value("shot")));
    return 1;
}

void describe(QCommandLineParser& options) {
    options.setApplicationDescription(
        "Functional parts for filament printing that fit, move and print the first time.");
    options.addHelpOption();
    options.addVersionOption();
    options.addPositionalArgument("FILE", "a project, or meshes to bring in", "[FILE...]");
    options.addOption({"shot", "Writes a picture of the window to FILE and ends.", "FILE"});
    options.addOption({"stretch", "Shape, Fit, Check, Bed or Export, for the picture.", "NAME"});
    options.addOption({"part", "Part to choose, for the picture.", "NAME"});
    options.addOption({"size", "Size of the window: WxH.", "WxH"});
    options.addOption({"contact", "Contact to show, from 0, for the picture.", "N"});
    options.addOption({"finding", "Finding to show, from 0, for the picture.", "N"});
    options.addOption({"cut", "Height of the cut in mm, for the picture.", "MM"});
    options.addOption({"ledger", "Opens the ledger, for the picture."});
    options.addOption({"draw", "Step whose drawing is opened, from 1, for the picture.", "N"});
    options.addOption({"map", "Maps the gap of the contact, for the picture."});
    options.addOption({"movement", "Leads the first movement along and shows it there, for the picture.", "POSITION"});
    options.addOption({"fit-part", "Brings the chosen part close, for the picture."});
}

/// What can be answered without a display, and that there is none; nothing when the window is to be shown.
std::optional<int> answer_without_display(int argc, char** argv) {
    QCoreApplication plain(argc, argv);
    QCommandLineParser options;
    describe(options);
    const bool read = options.parse(QCoreApplication::arguments());
    if (read && options.isSet("version")) {
        std::printf("Loose Peg %s\n", qPrintable(QCoreApplication::applicationVersion()));
        return 0;
    }
    if (read && options.isSet("help")) {
        std::printf("%s", qPrintable(options.helpText()));
        return 0;
    }
    for (const char* there : {"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"})
        if (!qEnvironmentVariableIsEmpty(there)) return std::nullopt;
    if (QCoreApplication::arguments().contains("-platform")) return std::nullopt;
    std::fprintf(stderr, "loose-peg: there is no display to show a window on. loose-peg-cli works without one.\n");
    return 1;
}

/// The size of text is a matter of the whole process: the toolkit takes it before anything is made.
void set_size() {
    const int percent = lp::settings().size_percent;
    if (percent != 100 && !qEnvironmentVariableIsSet("QT_SCALE_FACTOR"))
        qputenv("QT_SCALE_FACTOR", QByteArray::number(percent / 100.0));
}

/// Another process at the size that was chosen, with the same project; what was not saved was asked about.
void begin_again(lp::Session& session) {
    session.document().close_in_peace();
    QProcess fresh;
    fresh.setProgram(QCoreApplication::applicationFilePath());
    if (QString path = session.document().path(); !path.isEmpty()) fresh.setArguments({path});
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    environment.remove("QT_SCALE_FACTOR");
    fresh.setProcessEnvironment(environment);
    if (fresh.startDetached()) return QCoreApplication::quit();
    session.say("The program could not be started again: the size holds from its next start on.", true);
}

} // namespace

int main(int argc, char** argv) {
    QCoreApplication::setApplicationName("Loose Peg");
    QCoreApplication::setApplicationVersion(LOOSE_PEG_VERSION);
    if (auto status = answer_without_display(argc, argv)) return *status;
    set_size();
    QApplication app(argc, argv);
    QApplication::setDesktopFileName("loose-peg");
    QCommandLineParser options;
    describe(options);
    options.process(app);
    lp::theme::apply(app);
    lp::use_kernel_cache(std::make_shared<lp::KernelCache>(lp::kernel_cache_folder(), lp::kernel_made_by()));
    lp::Session session;
    lp::WindowKeeper keeper(&session);
    lp::MainWindow& window = *keeper.window();
    QObject::connect(&keeper, &lp::WindowKeeper::restart_wanted, &app, [&] { begin_again(session); });
    if (options.isSet("size")) {
        QStringList size = options.value("size").split('x');
        if (size.size() == 2) window.resize(size[0].toInt(), size[1].toInt());
    }
    window.show();
    if (!options.isSet("size") && !options.isSet("shot"))
        for (const int ms : {200, 1000, 4000}) // once the window manager has put its frame round it, busy as it may be
            QTimer::singleShot(ms, &window, [&window] {
                const QSize frame = window.frameGeometry().size() - window.size();
                window.resize(window.size().boundedTo(window.screen()->availableSize() - frame));
            });
    if (!options.positionalArguments().isEmpty()) session.bring_in(options.positionalArguments());
    if (!options.isSet("shot")) window.offer_recovery(); // also where the file itself was opened
    if (options.isSet("shot")) {
        int status = 0;
        QTimer::singleShot(0, &window, [&] {
            status = take_shot(window, session, options);
            session.document().close_in_peace();
            QApplication::exit(status);
        });
        int run = app.exec();
        return run ? run : status;
    }
    return app.exec();
}
