// Every working that is printed is worked out again from its own printed numbers, by a small calculator of
// the test's own.
#include <gtest/gtest.h>

#include <charconv>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "network/edits.h"
#include "solve/solve.h"
#include "solve/working_of.h"

namespace conduit {
namespace {

// Reads + − · / ^ ² ³ √ ( ) ln lg exp π and numbers.
class Calculator {
 public:
  explicit Calculator(std::string text) : text_(std::move(text)) {}
  double value() {
    const double v = sum();
    skip();
    EXPECT_EQ(at_, text_.size()) << "unread: " << text_.substr(at_);
    return v;
  }

 private:
  void skip() {
    while (at_ < text_.size() && text_[at_] == ' ') ++at_;
  }
  bool take(std::string_view word) {
    skip();
    if (text_.compare(at_, word.size(), word) != 0) return false;
    at_ += word.size();
    return true;
  }
  double sum() {
    double v = product();
    for (;;) {
      if (take("+")) v += product();
      else if (take("−") || take("-")) v -= product();
      else return v;
    }
  }
  double product() {
    double v = power();
    for (;;) {
      if (take("·")) v *= power();
      else if (take("/")) v /= power();
      else return v;
    }
  }
  double power() {
    double v = atom();
    for (;;) {
      if (take("²")) v *= v;
      else if (take("³")) v = v * v * v;
      else if (take("^")) v = std::pow(v, atom());
      else return v;
    }
  }
  double atom() {
    if (take("(")) {
      const double v = sum();
      EXPECT_TRUE(take(")"));
      return v;
    }
    if (take("−") || take("-")) return -power();
    if (take("√")) return std::sqrt(atom());
    if (take("ln")) return std::log(atom());
    if (take("lg")) return std::log10(atom());
    if (take("exp")) return std::exp(atom());
    if (take("π")) return M_PI;
    skip();
    double v = NAN;
    const auto [end, error] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), v);
    EXPECT_EQ(error, std::errc()) << text_.substr(at_);
    at_ = static_cast<std::size_t>(end - text_.data());
    return v;
  }
  std::string text_;
  std::size_t at_ = 0;
};

class Workings : public testing::TestWithParam<const char*> {};

void followEveryWorking(const Network& drawn) {
  const Network* network = &drawn;
  const Solution solution = solve(*network, &shippedStock());
  ASSERT_TRUE(solution.summary.usable());
  int lines = 0;
  std::string without;
  network->each([&](Id id, const Element& e) {
    const ReadingOf reading(*network, solution, id);
    for (const Outcome& o : e.part->outcomes) {
      const auto shown = shownOf(o, *reading);
      if (!shown) continue;
      const auto working = workingOf(*network, solution, id, o.key);
      if (!working) {
        without += e.name + " " + std::string(o.key) + "; ";
        continue;
      }
      ASSERT_FALSE(working->lines.empty());
      for (const WorkingLine& l : working->lines) {
        const double again = Calculator(l.numbers).value();
        EXPECT_NEAR(again, l.value, 2e-5 * std::abs(l.value) + 1e-9)
            << e.name << " " << o.key << ": " << l.symbol << " = " << l.numbers;
        ++lines;
      }
      // The last line is the number that is shown.
      EXPECT_NEAR(working->lines.back().value, shown->si, 2e-6 * std::abs(shown->si) + 2e-7)
          << e.name << " " << o.key;
    }
  });
  EXPECT_EQ(without, "") << "every found number of every kind can show how it came about";
  EXPECT_GT(lines, 3);
}

TEST_P(Workings, canBeFollowedByHand) {
  const auto model = loadModel(std::string(SOURCE_DIR) + GetParam(), &shippedStock());
  ASSERT_TRUE(model);
  followEveryWorking(model->drawn);
}

// Every way of describing a motor, on the sample's intake pump of 55 kW and 2 950 rpm.
TEST(WorkingsOfMotors, canBeFollowedByHand) {
  const Network n = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock())->drawn;
  using Edits = std::vector<std::array<const char*, 3>>;
  for (const Edits& edits :
       {Edits{{"P-1", "rated speed", "725 rpm"}, {"P-1", "speed", "725 rpm"}},
        Edits{{"P-1", "motor efficiency", "93 %"}},
        Edits{{"P-1", "motor efficiency", "93 %"}, {"P-1", "driver", ""}},
        Edits{{"P-1", "motor class", "IE2"}, {"P-1", "driver", "315 kW"}}, Edits{{"P-1", "driver", "400 W"}},
        Edits{{"P-1", "units", "2"}}, Edits{{"job", "motor mains", "60 Hz"}},
        Edits{{"P-1", "motor at part load", "50 %|91 %;75 %|94 %;100 %|93 %"}}}) {
    Network changed = n;
    for (const auto& [name, field, value] : edits) {
      auto e = setField(changed, std::string(name) == "job" ? jobId : n.byName(name), field, value,
                        &shippedStock(), &UnitSet::siWater());
      ASSERT_TRUE(e) << e.error().what;
      changed = e->network;
    }
    followEveryWorking(changed);
  }
}

INSTANTIATE_TEST_SUITE_P(
    Models, Workings,
    testing::Values("/samples/kestrel-fell.lconduit", "/samples/millpond.lconduit",
                    "/tests/parts/every_kind.lconduit", "/tests/problems/two_loop_419.lconduit",
                    "/tests/problems/laminar_oil.lconduit", "/tests/problems/pumps_parallel.lconduit",
                    "/tests/problems/pumps_series.lconduit", "/tests/problems/suction_lift.lconduit",
                    "/tests/problems/orifice_meter.lconduit", "/tests/problems/orifice_in_line.lconduit",
                    "/tests/problems/prv_active.lconduit", "/tests/problems/prv_open.lconduit",
                    "/tests/problems/prv_closed.lconduit", "/tests/problems/valve_choked.lconduit",
                    "/tests/problems/valve_not_choked.lconduit", "/tests/problems/limiter_active.lconduit",
                    "/tests/problems/five_nozzles.lconduit", "/tests/problems/three_reservoirs.lconduit",
                    "/tests/problems/pump_duty.lconduit", "/tests/problems/check_valve_closing.lconduit",
                    "/tests/problems/gravity_main.lconduit"));

}  // namespace
}  // namespace conduit
