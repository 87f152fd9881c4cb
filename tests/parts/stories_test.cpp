// The one sentence of each kind, in each of its states: what an engineer reads first.
#include <gtest/gtest.h>

#include "model_text.h"
#include "network/edits.h"

namespace conduit::test {
namespace {

std::string story(const Network& n, const std::string& name) {
  const Solution s = solve(n, &shippedStock());
  const ReadingOf reading(n, s, n.byName(name));
  return n.at(n.byName(name)).part->story(*reading, UnitSet::siWater());
}
Network sample(const char* name) { return loadModel(std::string(SOURCE_DIR) + name, &shippedStock())->drawn; }
Network with(const Network& n, const char* name, const char* field, const char* text) {
  return setField(n, n.byName(name), field, text, &shippedStock(), &UnitSet::siWater())->network;
}

struct Says {
  const char *file, *name, *field, *text, *words;
};
class Stories : public testing::TestWithParam<Says> {};

TEST_P(Stories, sayTheState) {
  const Says c = GetParam();
  Network n = sample(c.file);
  if (*c.field) n = with(n, c.name, c.field, c.text);
  const std::string told = story(n, c.name);
  EXPECT_NE(told.find(c.words), std::string::npos) << c.name << ": " << told;
  EXPECT_EQ(told.find("nan"), std::string::npos) << told;
  EXPECT_TRUE(told.ends_with(".")) << told;
}

INSTANTIATE_TEST_SUITE_P(
    Told, Stories,
    testing::Values(Says{"/samples/kestrel-fell.lconduit", "P-1", "", "", "Delivers 20.1 L/s at"},
                    Says{"/samples/kestrel-fell.lconduit", "B-2", "", "", "Stopped"},
                    Says{"/samples/kestrel-fell.lconduit", "V-1", "", "", "Controlling: reduces"},
                    Says{"/samples/kestrel-fell.lconduit", "V-1", "set point", "60 bar", "Wide open"},
                    Says{"/samples/kestrel-fell.lconduit", "Tarn", "", "", "Supplies 40.1 L/s"},
                    Says{"/samples/kestrel-fell.lconduit", "Top tank", "", "", "The level rises"},
                    Says{"/samples/kestrel-fell.lconduit", "Filter", "", "", "of rated flow"},
                    Says{"/samples/kestrel-fell.lconduit", "Gun 1", "", "", "Discharges"},
                    Says{"/samples/kestrel-fell.lconduit", "Gun 1", "open", "no", "Closed: no discharge"},
                    Says{"/samples/kestrel-fell.lconduit", "V-11", "open", "no", "Closed: no flow"},
                    Says{"/samples/kestrel-fell.lconduit", "L-12", "", "", "No flow"},
                    Says{"/samples/kestrel-fell.lconduit", "J-1", "", "", "hydraulic grade"},
                    Says{"/samples/millpond.lconduit", "Foot valve", "", "", "Open: passes 0.79"},
                    Says{"/tests/limits/pond.lconduit", "Upper trough", "", "", "Draws off 0.350 L/s"},
                    Says{"/tests/problems/check_valve_closing.lconduit", "C", "", "",
                         "Shut: outlet head is 14.3 m above"},
                    Says{"/tests/problems/prv_closed.lconduit", "R", "", "", "Shut"},
                    Says{"/tests/problems/pump_dead_headed.lconduit", "small", "", "", "Dead-headed"},
                    Says{"/tests/problems/pump_head_needed.lconduit", "U", "", "", "Required head 52.39 m"},
                    Says{"/tests/problems/valve_not_choked.lconduit", "V", "", "", "Passes 50.8 L/s"},
                    Says{"/tests/problems/valve_not_choked.lconduit", "V", "opening", "0 %", "Closed"},
                    Says{"/tests/problems/laminar_oil.lconduit", "line", "", "", "The flow is laminar"},
                    Says{"/tests/problems/gravity_main.lconduit", "held upper", "", "", "Supplies 167 L/s"},
                    Says{"/tests/problems/gravity_main.lconduit", "held lower", "", "", "Takes 167 L/s"}));

TEST(Stories, ofAnUnsolvedNetworkClaimNothing) {
  const Network n = with(sample("/samples/kestrel-fell.lconduit"), "L-5", "length", "");
  int told = 0;
  n.each([&](Id, const Element& e) {
    if (!e.part->story) return;
    const std::string words = story(n, e.name);
    const bool stands = words == "Stopped: no flow.";  // a pump that is not running
    EXPECT_TRUE(stands || words.find("not determined") != std::string::npos) << e.name << ": " << words;
    // No number: nothing has been worked out. (Names are not in the sentences.)
    EXPECT_EQ(words.find_first_of("0123456789"), std::string::npos) << e.name << ": " << words;
    ++told;
  });
  EXPECT_GT(told, 30);
}

TEST(Outcomes, areFiniteWhereverTheyAreThere) {
  for (const char* file : {"/samples/kestrel-fell.lconduit", "/samples/millpond.lconduit",
                           "/tests/problems/five_nozzles.lconduit", "/tests/problems/prv_active.lconduit"}) {
    const Network n = sample(file);
    const Solution s = answer(n);
    n.each([&](Id id, const Element& e) {
      const ReadingOf reading(n, s, id);
      for (const Outcome& o : e.part->outcomes)
        if (const auto v = o.of(*reading)) EXPECT_TRUE(std::isfinite(*v)) << e.name << " " << o.key;
    });
  }
}

TEST(Pump, powerAndNpshMeetHandCalculation) {
  const Network n = sample("/tests/limits/pond.lconduit");
  const Solution s = answer(n);
  const ReadingOf r(n, s, n.byName("P-1"));
  auto outcome = [&](std::string_view key) {
    for (const Outcome& o : n.at(n.byName("P-1")).part->outcomes)
      if (o.key == key) return o.of(*r).value_or(NAN);
    return double(NAN);
  };
  // P = ρ g Q H / η with the given point 0.8 L/s, 29 m, 46 %; ρ(12 °C) = 999.50 kg/m3 (Kell 1975).
  EXPECT_NEAR(outcome("shaft power"), 999.50 * 9.80665 * 0.0008 * 29 / 0.46, 0.05);
  EXPECT_NEAR(outcome("NPSH required"), 1.9, 1e-9);
  EXPECT_NEAR(outcome("NPSH margin"), outcome("NPSH available") - 1.9, 1e-12);
  EXPECT_NEAR(outcome("NPSH available"), headAt(n, s, "N-3") - 43.2 + s.setting.vapourDepth_m(43.2), 1e-12);
}

}  // namespace
}  // namespace conduit::test
