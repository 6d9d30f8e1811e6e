// A weather station of 22 parts, made up, each seated on others: what acts on whole assemblies is tried with.
#pragma once
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>
#include <string>

namespace lp::test {

class WindStation {
  public:
    using json = nlohmann::json;

    /// Its document; `tall` is the number for the height of its box, 30 mm.
    static json document() {
        WindStation station;
        station.add_box();
        station.add_mast();
        station.add_rotor();
        return {{"format", "loose-peg"},
                {"version", 1},
                {"name", "Wind station"},
                {"parameters", {{"tall", "30 mm"}}},
                {"parts", station.parts_}};
    }

  private:
    static json solid(const char* kind, const std::string& name, json fields, std::array<json, 3> at,
                      const char* does) {
        fields.update({{"at_x", at[0]}, {"at_y", at[1]}, {"at_z", at[2]}, {"does", does}});
        return {{"kind", kind}, {"name", name}, {"fields", fields}};
    }
    static json block(const std::string& name, json x, json y, json z, std::array<json, 3> at = {0, 0, 0},
                      const char* does = "join") {
        return solid("block", name, {{"size_x", x}, {"size_y", y}, {"size_z", z}}, at, does);
    }
    static json round(const std::string& name, double diameter, double height, std::array<json, 3> at = {0, 0, 0},
                      const char* does = "join") {
        return solid("cylinder", name, {{"diameter", diameter}, {"height", height}}, at, does);
    }
    static json seat(const std::string& face, const std::string& on, const std::string& on_face,
                     const char* gap = "0 mm") {
        return {{"face", face}, {"on", on}, {"on_face", on_face}, {"gap", gap}};
    }
    void add(const std::string& name, const json& steps, const json& seats, bool stand_in = false) {
        parts_.push_back({{"name", name}, {"steps", steps}, {"stand_in", stand_in}, {"place", {{"seats", seats}}}});
    }
    /// Turned as typed before it is seated, and `out` from the middle of its seat, the n-th of three round about.
    void swing(int n, double about_x, double out) {
        const double angle = 2 * std::numbers::pi / 3 * n;
        json& place = parts_.back()["place"];
        place["turn"] = {about_x, 0, 120 * n};
        place["at"] = {out * std::cos(angle), out * std::sin(angle), 0};
    }

    void add_box() {
        json box = json::array({block("body", 80, 60, "tall"), block("room", 74, 54, "tall", {0, 0, 3}, "cut")}), pits;
        json lid = json::array({block("plate", 80, 60, 4), round("way", 16.2, 4, {0, 0, 0}, "cut")});
        for (int i = 0; i < 4; ++i) {
            const std::string n = std::to_string(i + 1);
            const double x = i / 2 ? 32 : -32, y = i % 2 ? 22 : -22;
            box.push_back(block("post" + n, 10, 10, "tall - 3 mm", {x, y, 3}));
            pits.push_back(round("pit" + n, 4.2, 6.2, {x, y, "tall - 6.2 mm"}, "cut"));
            lid.push_back(round("hole" + n, 3.4, 4, {x, y, 0}, "cut"));
        }
        box.insert(box.end(), pits.begin(), pits.end());
        add("Box", box, json::array());
        for (int i = 1; i <= 4; ++i)
            add("Insert " + std::to_string(i),
                json::array({round("sleeve", 4, 6), round("bore", 2.5, 6, {0, 0, 0}, "cut")}),
                json::array({seat("side of sleeve", "Box", "side of pit" + std::to_string(i)),
                             seat("bottom of sleeve", "Box", "bottom of pit" + std::to_string(i), "0.2 mm")}),
                true);
        add("Board", json::array({block("board", 50, 30, 1.6)}),
            json::array({seat("bottom of board", "Box", "bottom of room", "0.2 mm")}), true);
        add("Lid", lid,
            json::array({seat("bottom of plate", "Box", "top of body"), seat("side of hole1", "Box", "side of pit1"),
                         seat("side of hole4", "Box", "side of pit4")}));
        for (int i = 1; i <= 4; ++i)
            add("Screw " + std::to_string(i), json::array({round("shaft", 2.3, 8), round("head", 5.5, 3, {0, 0, 8})}),
                json::array({seat("side of shaft", "Lid", "side of hole" + std::to_string(i)),
                             seat("bottom of head", "Lid", "top of plate")}),
                true);
    }

    void add_mast() {
        add("Mast",
            json::array(
                {round("tube", 16, 60), round("foot", 24, 3, {0, 0, -3}), round("socket", 8.2, 20, {0, 0, 40}, "cut")}),
            json::array(
                {seat("side of tube", "Lid", "side of way"), seat("top of foot", "Lid", "bottom of plate", "0.2 mm")}));
        add("Axle", json::array({round("rod", 8, 40)}),
            json::array(
                {seat("side of rod", "Mast", "side of socket"), seat("bottom of rod", "Mast", "bottom of socket")}));
    }

    void add_rotor() {
        json hub = json::array({round("disc", 24, 14), round("bore", 8.3, 14, {0, 0, 0}, "cut")});
        for (int i = 1; i <= 3; ++i)
            hub.push_back({{"kind", "cut_with"}, {"fields", {{"tool", "Arm " + std::to_string(i)}, {"fit", "slide"}}}});
        add("Hub", hub,
            json::array({seat("side of bore", "Axle", "side of rod"),
                         seat("bottom of disc", "Mast", "top of tube", "2.2 mm")}));
        for (int i = 0; i < 3; ++i) {
            const std::string n = std::to_string(i + 1);
            add("Arm " + n, json::array({block("beam", 51, 5, 5)}),
                json::array({seat("bottom of beam", "Hub", "bottom of disc", "-9.5 mm")}));
            swing(i, 180, 31.5);
            add("Cup " + n,
                json::array({block("cup", 12, 12, 12), block("slot", 5.4, 5.4, 5.4, {-4.5, 0, 3.3}, "cut"),
                             round("bowl", 8, 9, {0, 0, 3.5}, "cut")}),
                json::array({seat("bottom of slot", "Arm " + n, "top of beam", "0.2 mm")}));
            swing(i, 0, 24);
        }
        add("Cap", json::array({round("cap", 24, 3), round("bore", 8.2, 3, {0, 0, 0}, "cut")}),
            json::array(
                {seat("side of bore", "Axle", "side of rod"), seat("bottom of cap", "Hub", "top of disc", "0.2 mm")}));
        add("Cap nut", json::array({round("nut", 14, 6), round("bore", 8.2, 6, {0, 0, 0}, "cut")}),
            json::array(
                {seat("side of bore", "Axle", "side of rod"), seat("bottom of nut", "Cap", "top of cap", "0.2 mm")}),
            true);
    }

    json parts_ = json::array();
};

} // namespace lp::test
