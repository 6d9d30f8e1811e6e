// BREP files come in as exact bodies; damaged ones are refused in words.
#include "formats/formats.h"
#include "shape/exact_boolean.h"
#include "shape/exact_shape.h"
#include "shape/exact_solids.h"
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>
#include <gtest/gtest.h>
#include <numbers>
#include <random>
#include <sstream>

using namespace lp;

namespace {

std::string written(const TopoDS_Shape& shape) {
    std::ostringstream out;
    BRepTools::Write(shape, out);
    return out.str();
}

/// A block of 30 by 20 by 10 with a hole of 8 through it.
Body drilled() {
    Transform at = Transform::Identity();
    auto block = make_block({30, 20, 10}, at, {});
    at.translate(Vec3(15, 10, -1));
    auto drill = make_cylinder(4, 12, at, {});
    return combine_exact(Operation::Cut, *block, {*drill}).value();
}

} // namespace

TEST(BrepFile, SolidsComeInExact) {
    const Body body = drilled();
    auto read = read_objects("bought.brep", written(body.exact()->shape));
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_STREQ(read->format->id, "brep");
    ASSERT_EQ(read->objects.size(), 1u);
    ASSERT_TRUE(read->objects[0].exact);
    // The closed formula, to the kernel's precision: it is no mesh.
    EXPECT_NEAR(read->objects[0].exact->mass().volume_mm3, 30 * 20 * 10 - std::numbers::pi * 16 * 10, 1e-6);
    EXPECT_EQ(read->objects[0].exact->tessellation().faces.size(), 7u);
    // Several in one file; known by its contents whatever its ending.
    TopoDS_Compound two;
    BRep_Builder builder;
    builder.MakeCompound(two);
    builder.Add(two, body.exact()->shape);
    Transform beside = Transform::Identity();
    beside.translate(Vec3(100, 0, 0));
    builder.Add(two, make_sphere(5, beside, {})->exact()->shape);
    auto both = read_objects("bought.txt", written(two));
    ASSERT_TRUE(both) << both.error().text();
    EXPECT_EQ(both->objects.size(), 2u);
}

TEST(BrepFile, WhatIsNoSolidOrDamagedIsRefused) {
    const std::string whole = written(drilled().exact()->shape);
    EXPECT_FALSE(read_objects("a.brep", ""));
    EXPECT_FALSE(read_objects("a.brep", "DBRep_DrawableShape\n"));
    EXPECT_FALSE(read_objects("a.brep", "hello"));
    const TopoDS_Shape face = TopExp_Explorer(drilled().exact()->shape, TopAbs_FACE).Current();
    auto sheet = read_objects("sheet.brep", written(face));
    ASSERT_FALSE(sheet);
    EXPECT_NE(sheet.error().sentence.find("no solid"), std::string::npos) << sheet.error().text();
    for (double share : {0.1, 0.4, 0.7, 0.95}) {
        auto cut = read_objects("a.brep", whole.substr(0, size_t(share * double(whole.size()))));
        EXPECT_FALSE(cut) << share;
    }
    // Numbers made others: read as something sound, or refused; never more.
    std::mt19937 random(7);
    for (int k = 0; k < 12; ++k) {
        std::string damaged = whole;
        for (int n = 0; n < 20; ++n) damaged[200 + random() % (damaged.size() - 200)] = "0123456789- \n"[random() % 13];
        const auto read = read_objects("a.brep", damaged);
        EXPECT_TRUE(!read || read->objects[0].exact) << "a sound body or none";
    }
}
