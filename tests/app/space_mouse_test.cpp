// A space mouse, by a stand-in for its daemon: a socket that speaks as the daemon does (eight whole numbers an event;
// libspnav's protocol description, version 0).
#include "app/view/space_mouse.h"
#include "window_test.h"
#include <atomic>
#include <poll.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <thread>

using namespace lp;

namespace {

class DaemonStandIn {
  public:
    explicit DaemonStandIn(const std::string& path) {
        listening_ = socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0);
        sockaddr_un address{};
        address.sun_family = AF_UNIX;
        std::snprintf(address.sun_path, sizeof address.sun_path, "%s", path.c_str());
        unlink(path.c_str());
        EXPECT_EQ(bind(listening_, reinterpret_cast<sockaddr*>(&address), sizeof address), 0);
        EXPECT_EQ(listen(listening_, 1), 0);
        thread_ = std::thread([this] { talk(); });
    }
    ~DaemonStandIn() { stop(); }
    void stop() {
        ended_ = true;
        if (thread_.joinable()) thread_.join();
        if (client_ >= 0) close(client_);
        if (listening_ >= 0) close(listening_);
        client_ = listening_ = -1;
    }
    void send(const std::array<int32_t, 8>& event) {
        ASSERT_GE(client_, 0);
        ASSERT_EQ(write(client_, event.data(), sizeof event), ssize_t(sizeof event));
    }
    bool connected() const { return client_ >= 0; }

  private:
    void talk() { // accepts one, and hears without an answer what it asks: an old daemon
        while (!ended_) {
            pollfd waiting{client_ < 0 ? listening_ : int(client_), POLLIN, 0};
            if (poll(&waiting, 1, 20) <= 0) continue;
            if (client_ < 0) {
                client_ = accept4(listening_, nullptr, nullptr, SOCK_CLOEXEC);
            } else {
                char heard[256];
                if (read(client_, heard, sizeof heard) <= 0) return;
            }
        }
    }
    int listening_ = -1;
    std::atomic<int> client_{-1};
    std::atomic<bool> ended_{false};
    std::thread thread_;
};

} // namespace

TEST(SpaceMouse, TheCapMovesTurnsAndZoomsAndNeverRolls) {
    const QSize picture(800, 600);
    Camera at;
    auto after = [&](const CapMotion& m) { return moved_by_cap(at, m, picture); };
    const Camera right = after({.x = 350, .ms = 100});
    EXPECT_LT((right.centre - at.centre).dot(Vec3(0, 0, 1)), 1e-9) << "sideways stays level";
    EXPECT_GT((right.centre - at.centre).norm(), 1);
    EXPECT_GT(after({.y = 350, .ms = 100}).centre.z(), at.centre.z()) << "up is up";
    EXPECT_NE(after({.z = 350, .ms = 100}).half_height, at.half_height);
    EXPECT_NEAR(after({.z = 350, .ms = 100}).half_height / at.half_height,
                at.half_height / after({.z = -350, .ms = 100}).half_height, 1e-9);
    EXPECT_NE(after({.ry = 350, .ms = 100}).yaw_deg, at.yaw_deg);
    EXPECT_NE(after({.rx = 350, .ms = 100}).pitch_deg, at.pitch_deg);
    const Camera rolled = after({.rz = 350, .ms = 100});
    EXPECT_EQ(rolled.yaw_deg, at.yaw_deg);
    EXPECT_EQ(rolled.pitch_deg, at.pitch_deg);
    const Camera wild = after({.x = 1e9, .ry = 1e9, .ms = 1e9});
    EXPECT_TRUE(wild.centre.allFinite());
}

class WithSpaceMouse : public Window {
  protected:
    void SetUp() override {
        const std::string socket = (folder.path / "spnav.sock").string();
        qputenv("SPNAV_SOCKET", QByteArray::fromStdString(socket));
        daemon = std::make_unique<DaemonStandIn>(socket);
        Window::SetUp();
    }
    void TearDown() override {
        Window::TearDown();
        daemon.reset();
        qunsetenv("SPNAV_SOCKET");
    }
    std::unique_ptr<DaemonStandIn> daemon;
};

TEST_F(WithSpaceMouse, MovesTheViewAndItsGoingAwayIsNoMatter) {
    ASSERT_TRUE(window.keeper->space_mouse()->is_there());
    open_demo();
    const Camera before = window->view()->camera();
    daemon->send({0, 0, 0, 0, 0, 200, 0, 16}); // turned
    for (int i = 0; i < 100 && window->view()->camera().yaw_deg == before.yaw_deg; ++i) QTest::qWait(5);
    EXPECT_NE(window->view()->camera().yaw_deg, before.yaw_deg);
    daemon->send({1, 0, 0, 0, 0, 0, 0, 0}); // a button: everything is seen
    const Camera turned = window->view()->camera();
    for (int i = 0; i < 100 && window->view()->camera().half_height == turned.half_height; ++i) QTest::qWait(5);
    daemon->stop();
    for (int i = 0; i < 200 && window.keeper->space_mouse()->is_there(); ++i) QTest::qWait(5);
    EXPECT_FALSE(window.keeper->space_mouse()->is_there());
    press(Qt::Key_Home);
    settle();
}

TEST_F(Window, WithoutADaemonThereIsNoSpaceMouse) {
    EXPECT_FALSE(window.keeper->space_mouse()->is_there());
}
