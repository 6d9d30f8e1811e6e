// Screw threads: diameters against ISO 68-1, volumes against Pappus, gaps of pairs by measuring, slopes against the
// profile's own.
#include "hardware/thread_size.h"
#include "mesh/soundness.h"
#include "mesh/thread_mesh.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numbers>

using namespace lp;
using std::numbers::pi;

namespace {

Thread made(ThreadShape shape) {
    auto thread = make_thread(shape);
    EXPECT_TRUE(thread) << (thread ? "" : thread.error().text());
    return thread.value_or(Thread{});
}
ThreadShape shape(double major, double pitch, ThreadProfile profile = ThreadProfile::Sharp) {
    ThreadShape s;
    s.major_mm = major;
    s.pitch_mm = pitch;
    s.profile = profile;
    return s;
}
double volume(const TriMesh& mesh) {
    return mass_properties(mesh).volume_mm3;
}
double gap(const Thread& a, const Thread& b) {
    return closest_pair(DistanceTree(a.mesh), DistanceTree(b.mesh)).distance_mm;
}
/// What a whole turn of profile holds: pi times the mean of the radius squared, by a fine sum over the profile.
double area_of(const ThreadShape& s, const std::function<double(double)>& radius) {
    double sum = 0;
    constexpr int n = 20000;
    for (int i = 0; i < n; ++i) sum += std::pow(radius(s.pitch_mm * (i + 0.5) / n), 2);
    return pi * sum / n;
}

} // namespace

TEST(Thread, HasTheDiametersOfTheStandardAndIsSound) {
    // ISO 724: M10 major 10, minor 8.376; M3 2.459.
    const Thread m10 = made(shape(10, 1.5));
    EXPECT_NEAR(m10.major_mm, 10, 1e-9);
    EXPECT_NEAR(m10.minor_mm, 8.376, 0.0005);
    EXPECT_NEAR(made(shape(3, 0.5)).minor_mm, 2.459, 0.0005);
    EXPECT_NEAR(m10.turns, 20 / 1.5, 1e-9);
    const Box3 box = bounding_box(m10.mesh);
    EXPECT_NEAR(box.max().x(), 5, 0.01);
    EXPECT_NEAR(box.min().z(), 0, 1e-12);
    EXPECT_NEAR(box.max().z(), 20, 1e-12);
    for (ThreadProfile profile :
         {ThreadProfile::Sharp, ThreadProfile::Round, ThreadProfile::Trapezoid, ThreadProfile::Buttress})
        for (bool inside : {false, true})
            for (int starts : {1, 3})
                for (double length : {0.7, 2.0, 11.3}) {
                    ThreadShape s = shape(12, 2, profile);
                    s.inside = inside, s.starts = starts, s.length_mm = length, s.left_hand = starts == 3;
                    s.fit_mm = 0.1;
                    const auto sound = check_soundness(made(s).mesh);
                    EXPECT_TRUE(sound.sound())
                        << word_of(profile) << (inside ? ", inside, " : ", ") << starts << ", " << length
                        << " long: " << sound.open_edges.count << " open, " << sound.self_intersecting->count
                        << " crossing, " << sound.nonmanifold_edges.count << " crowded, " << sound.degenerate.count
                        << " flat";
                }
}

TEST(Thread, VolumeIsWhatTheProfileSweepsOut) {
    // Away from its ends a thread holds pi times the mean square radius a millimetre (Cavalieri: every cut across the
    // axis is the profile once round, turned). Two lengths, so that the ends fall out.
    const double h = 0.866025404 * 1.5, minor = 5 - 0.625 * h;
    auto radius = [&](double x) { // ISO 68-1: crest P/8, root P/4, flanks of 30 degrees
        const double from_crest = std::fabs(x < 0.75 ? x : 1.5 - x) - 1.5 / 16;
        return from_crest <= 0 ? 5.0 : std::max(minor, 5 - from_crest / std::tan(radians(30.0)));
    };
    ThreadShape s = shape(10, 1.5);
    const double area = area_of(s, radius);
    s.deviation_mm = 0.0002; // a polygon's area falls short by the square of its sides
    s.length_mm = 15;
    const double shorter = volume(made(s).mesh);
    s.length_mm = 30;
    EXPECT_NEAR((volume(made(s).mesh) - shorter) / 15, area, area * 2e-3);
    s.inside = true;
    const double ring = volume(made(s).mesh);
    s.length_mm = 15;
    EXPECT_NEAR((ring - volume(made(s).mesh)) / 15, pi * 64 - area, area * 2e-3) << "5 and 3 of wall";
}

TEST(Thread, APairHasTheGapOnAllSides) {
    for (auto [major, pitch] : {std::pair(10.0, 1.5), {58.0, 4.0}, {6.35, 1.27}})
        for (ThreadProfile profile :
             {ThreadProfile::Sharp, ThreadProfile::Round, ThreadProfile::Trapezoid, ThreadProfile::Buttress})
            for (auto [outer, inner] : {std::pair(0.1, 0.1), {0.0, 0.4}, {0.2, 0.0}}) {
                if (outer + inner > 0.2 * pitch) continue;
                ThreadShape s = shape(major, pitch, profile);
                s.length_mm = 4 * pitch;
                s.fit_mm = outer;
                const Thread bolt = made(s);
                s.inside = true;
                s.fit_mm = inner;
                const Thread nut = made(s);
                // Where the flanks take all of a narrow crest it ends lower, in an edge.
                EXPECT_GE(nut.major_mm - bolt.major_mm, 2 * (outer + inner) - 1e-6);
                EXPECT_LE(nut.major_mm - bolt.major_mm, 2 * (outer + inner) + 0.15);
                EXPECT_NEAR(gap(bolt, nut), outer + inner, 0.02) << word_of(profile) << major << " " << outer;
            }
}

TEST(Thread, SteepOnesAreSquareToTheirFlanks) {
    ThreadShape s = shape(20, 4, ThreadProfile::Trapezoid);
    s.starts = 6; // a lead of 24 round 20: about 22 degrees
    s.length_mm = 20;
    s.fit_mm = 0.2;
    const Thread bolt = made(s);
    s.inside = true;
    const Thread nut = made(s);
    EXPECT_NEAR(gap(bolt, nut), 0.4, 0.02);
    EXPECT_NEAR(bolt.turns, 20.0 / 24, 1e-9);
}

TEST(Thread, HandsMirrorEachOther) {
    ThreadShape s = shape(10, 1.5);
    const TriMesh right = made(s).mesh;
    s.left_hand = true;
    TriMesh left = made(s).mesh;
    EXPECT_NEAR(volume(right), volume(left), 1e-6);
    // A right-hand thread climbs as it goes round counter-clockwise: its crest at angle 0 is a quarter pitch higher
    // at 90.
    auto crest_near = [](const TriMesh& mesh, const Vec2& way, double z) {
        double best = 1e9;
        for (const Vec3& v : mesh.vertices)
            if (v.head<2>().norm() > 4.999 && v.head<2>().normalized().dot(way) > 0.9999)
                if (std::fabs(v.z() - z) < std::fabs(best - z)) best = v.z();
        return best;
    };
    EXPECT_NEAR(crest_near(right, {0, 1}, 9 + 0.375), 9 + 0.375, 0.1);
    EXPECT_NEAR(crest_near(left, {0, 1}, 9 - 0.375), 9 - 0.375, 0.1);
}

TEST(Thread, OverhangIsThatOfItsFlank) {
    // A flank that leans 30 degrees from square to the axis hangs 60 from the vertical; the lead tilts it a little.
    EXPECT_NEAR(made(shape(58, 4)).largest_overhang_deg, 60, 1);
    EXPECT_NEAR(made(shape(58, 4, ThreadProfile::Round)).largest_overhang_deg, 45, 1);
    EXPECT_NEAR(made(shape(58, 4, ThreadProfile::Trapezoid)).largest_overhang_deg, 75, 1);
    EXPECT_NEAR(made(shape(58, 4, ThreadProfile::Buttress)).largest_overhang_deg, 45, 1);
}

TEST(Thread, NonsenseIsRefusedInASentence) {
    auto refused = [](const std::function<void(ThreadShape&)>& change) {
        ThreadShape s = shape(10, 1.5);
        change(s);
        const auto thread = make_thread(s);
        EXPECT_FALSE(thread);
        return thread ? std::string() : thread.error().text();
    };
    EXPECT_NE(refused([](auto& s) { s.pitch_mm = 12; }).find("nothing would be left"), std::string::npos);
    for (double bad : {0.0, -1.0, std::nan(""), 1e9, HUGE_VAL}) {
        refused([&](auto& s) { s.major_mm = bad; });
        refused([&](auto& s) { s.pitch_mm = bad; });
        refused([&](auto& s) { s.length_mm = bad; });
    }
    for (int starts : {0, -4, 1000}) refused([&](auto& s) { s.starts = starts; });
    refused([](auto& s) { s.fit_mm = 5; });
    refused([](auto& s) { s.fit_mm = std::nan(""); });
    refused([](auto& s) { s.fit_mm = 1.4; });
    refused([](auto& s) { s.inside = true, s.wall_mm = 0; });
    refused([](auto& s) { s.pitch_mm = 0.06, s.length_mm = 1900; });
}

TEST(ThreadSize, IsReadAsPeopleWriteIt) {
    auto size = [](const char* text) {
        const auto found = thread_size(text);
        EXPECT_TRUE(found) << text << " " << (found ? "" : found.error().text());
        return found.value_or(ThreadSize{});
    };
    EXPECT_EQ(size("M10").pitch_mm, 1.5);
    EXPECT_EQ(size("m3").pitch_mm, 0.5);
    EXPECT_EQ(size("M10x1.25").pitch_mm, 1.25);
    EXPECT_EQ(size("58x4").major_mm, 58);
    EXPECT_EQ(size("27.4 x 3.375 mm").pitch_mm, 3.375);
    for (const char* quarter : {"UNC-1/4", "1/4-20", "unc 1/4", "1/4-20 UNC", "1/4 UNC", "UNC-1/4-20"}) {
        EXPECT_NEAR(size(quarter).major_mm, 6.35, 1e-9) << quarter;
        EXPECT_NEAR(size(quarter).pitch_mm, 1.27, 1e-9) << quarter;
    }
    EXPECT_NEAR(size("UNF-1/4").pitch_mm, 25.4 / 28, 1e-5);
    EXPECT_NEAR(size("#6-32").major_mm, 0.138 * 25.4, 1e-4);
    EXPECT_NEAR(size("G1/2").pitch_mm, 1.814, 1e-9);
    for (const char* bad : {"", "M", "M11", "x", "10x0", "0x1", "nut", "1/0", "UNC", "M10x", "thread", "m4 nut"})
        EXPECT_FALSE(thread_size(bad)) << bad;
    EXPECT_NE(thread_size("M11").error().text().find("M10"), std::string::npos) << thread_size("M11").error().text();
    EXPECT_FALSE(thread_size(std::string(5000, '1')));
}
