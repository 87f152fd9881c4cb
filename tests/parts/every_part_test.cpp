// One suite over every kind of the registry: what its table declares holds for its law.
#include <gtest/gtest.h>

#include <map>
#include <set>

#include "exchange/stock_files.h"
#include "fields/entry.h"
#include "parts/flange.h"
#include "parts/registry.h"
#include "parts/waiver.h"

namespace conduit {
namespace {

// A complete element of each kind, as typed. A new kind without a row here fails the suite.
const std::map<std::string, std::vector<std::pair<std::string, std::string>>> complete{
    {"job", {}},
    {"point", {{"height", "12 m"}}},
    {"tank", {{"level", "30 m"}}},
    {"fixed pressure", {{"pressure", "2 bar"}}},
    {"pipe", {{"length", "100 m"}, {"bore", "100 mm"}, {"roughness", "0.1 mm"}, {"K", "3"}}},
    {"pump", {{"curve", "0 L/s|50 m;20 L/s|45 m|70 %|2 m;40 L/s|30 m|60 %|4 m"}, {"check valve", "no"}}},
    {"isolating valve", {{"K", "0.3"}, {"bore", "100 mm"}}},
    {"control valve",
     {{"Kv", "60 Kv"}, {"opening", "70 %"}, {"FL", "0.9"}, {"bore", "80 mm"}, {"Fd", "0.46"}}},
    {"check valve", {{"K", "2"}, {"bore", "100 mm"}}},
    {"reducing valve", {{"set point", "3 bar"}, {"bore", "100 mm"}}},
    {"sustaining valve", {{"set point", "3 bar"}, {"bore", "100 mm"}}},
    {"limiting valve", {{"flow at most", "9 L/s"}, {"bore", "100 mm"}}},
    {"differential valve", {{"difference", "0.3 bar"}, {"keeps", "across itself"}, {"bore", "100 mm"}}},
    {"relief valve", {{"set point", "6 bar"}, {"Kv", "40 Kv"}}},
    {"meter", {{"rated flow", "10 L/s"}, {"rated drop", "0.2 bar"}}},
    {"exchanger", {{"rated flow", "10 L/s"}, {"rated drop", "0.4 bar"}, {"exponent", "1.8"}}},
    {"orifice plate", {{"bore", "60 mm"}, {"pipe bore", "100 mm"}}},
    {"own loss", {{"law", "table"}, {"table", "5 L/s|0.1 bar;10 L/s|0.5 bar;20 L/s|1.6 bar"}}},
    {"strainer", {{"rated flow", "20 L/s"}, {"clean drop", "0.1 bar"}}},
    {"nozzle", {{"K-factor", "80 L/min/bar^0.5"}}},
};

Values valuesOf(const Part& part) {
  Values v;
  for (const auto& [key, text] : complete.at(std::string(part.key)))
    v.set(findField(part, key)->key, *readField(*findField(part, key), text, &shippedStock(), nullptr));
  return v;
}

class EveryPart : public testing::TestWithParam<const Part*> {};

TEST_P(EveryPart, saysWhatItIs) {
  const Part& part = *GetParam();
  EXPECT_FALSE(part.plural.empty());
  if (part.letter) EXPECT_EQ(partByLetter(part.letter), &part) << "the letter is another's";
  EXPECT_NE(part.letter, 'X') << "X splits a pipe";
  std::set<std::string_view> keys;
  for (const Field& f : part.fields) {
    EXPECT_TRUE(keys.insert(f.key).second) << f.key;
    EXPECT_FALSE(f.help.empty()) << f.key;
    if (f.kind == FieldKind::quantity) EXPECT_LT(f.least, f.most) << f.key;
    if (f.fallback) EXPECT_TRUE(*f.fallback >= f.least && *f.fallback <= f.most) << f.key;
  }
  for (const Swap& s : part.swaps) {
    ASSERT_NE(findField(part, s.give), nullptr);
    ASSERT_NE(findField(part, s.release), nullptr);
    EXPECT_TRUE(findField(part, s.release)->releasable);
  }
  for (const std::string_view key : part.workings)
    EXPECT_TRUE(part.working && std::any_of(part.outcomes.begin(), part.outcomes.end(),
                                            [&](const Outcome& o) { return o.key == key; }))
        << key;
  for (const std::string_view label : part.labels)
    EXPECT_TRUE(std::any_of(part.outcomes.begin(), part.outcomes.end(), [&](const Outcome& o) {
      return o.key == label;
    })) << label;
}

TEST_P(EveryPart, everyFieldHoldsADifferentValueAndGivesItBack) {
  const Part& part = *GetParam();
  Values v;
  int n = 0;
  std::map<std::string_view, std::string> typed;
  for (const Field& f : part.fields) {
    std::string text;
    ++n;
    if (f.kind == FieldKind::quantity) {
      const Unit& unit = unitsOf(f.measure).front();
      const double si = f.least + (f.most - f.least) * 1e-3 * n;
      text = std::to_string((si - unit.offset) / unit.factor) + " " + std::string(unit.symbol);
      if (f.measure == Measure::number) text = std::to_string(si);
    } else if (f.kind == FieldKind::choice) {
      text = std::string(f.choices.back());
    } else if (f.kind == FieldKind::flag) {
      text = "no";
    } else if (f.kind == FieldKind::text) {
      text = f.key == "own units"        ? "flow gpm; pressure kPa"
             : f.key == waivedKey        ? "NPSH margin: flooded suction"
             : f.key == flange::classKey ? "PN 16"
             : f.fault                   ? "pipe W-001; pump PU-1"
                                         : "words " + std::to_string(n);
    } else if (f.kind == FieldKind::takeOff) {
      text = "12.4 elbow 3.1 up";
    } else {
      continue;
    }
    const auto value = readField(f, text, &shippedStock(), nullptr);
    ASSERT_TRUE(value) << f.key << ": " << value.error().what;
    v.set(f.key, *value);
    typed[f.key] = text;
  }
  for (const auto& [key, text] : typed) {
    std::string back = writeField(*findField(part, key), *v.find(key));
    while (!back.empty() && back.back() == ' ') back.pop_back();
    std::string want = text;
    while (!want.empty() && want.back() == ' ') want.pop_back();
    EXPECT_EQ(back, want) << key;
  }
}

TEST_P(EveryPart, saysWhatItLacks) {
  const Part& part = *GetParam();
  if (!part.prepare) return;
  const std::vector<EndPlace> ends = {{5.0, {}}, {5.0, {}}};
  Setting setting;
  const Prepared empty = part.prepare(Values(), setting, ends);
  bool wants = false;
  for (const Field& f : part.fields) wants = wants || (f.needed && (!f.applies || f.applies(Values())));
  if (wants) EXPECT_FALSE(empty.missing.empty());
  EXPECT_TRUE(part.prepare(valuesOf(part), setting, ends).missing.empty());
}

TEST_P(EveryPart, lawsRiseAndTheirSlopesAreTrue) {
  const Part& part = *GetParam();
  if (!part.prepare) return;
  const std::vector<EndPlace> ends = {{5.0, 0.1}, {5.0, 0.1}};
  Setting setting;
  const Prepared prepared = part.prepare(valuesOf(part), setting, ends);
  for (const Branch& branch : prepared.branches) {
    ASSERT_NE(branch.law, nullptr);
    double memory = 0, last = -1e300;
    const double start = branch.law->startFlow_m3s();
    EXPECT_GT(start, 0);
    for (int k = -200; k <= 200; ++k) {
      const double q = start * 3 * std::copysign(std::pow(std::abs(k) / 200.0, 4), k);
      if (branch.law->barsBackflow() && q < 0) continue;
      const Loss loss = branch.law->at(q, memory);
      EXPECT_GT(loss.slope_sm2, 0) << q;
      EXPECT_GE(loss.drop_m, last) << q;
      last = loss.drop_m;
      const double h = std::max(std::abs(q) * 1e-6, 1e-13);
      const double difference =
          (branch.law->at(q + h, memory).drop_m - branch.law->at(q - h, memory).drop_m) / (2 * h);
      // Not across the joint of a low-flow law or of a connection, where the slope may change.
      if (std::abs(q) > 1e-4 * start)
        EXPECT_NEAR(loss.slope_sm2, difference,
                    2e-4 * std::abs(difference) + 1e-4 + 4e-15 * std::abs(loss.drop_m) / h)
            << part.key << " at " << q;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(Registry, EveryPart, testing::ValuesIn(allParts().begin(), allParts().end()),
                         [](const auto& one) {
                           std::string name(one.param->key);
                           std::replace(name.begin(), name.end(), ' ', '_');
                           return name;
                         });

TEST(LowFlow, differsFromThePowerLawByLessThanItSays) {
  const PowerLoss law(2500, 2.0);
  double worst = 0;
  for (double q = 0; q < 1e-4; q += 1e-8) worst = std::max(worst, std::abs(law.at(q).drop_m - 2500 * q * q));
  EXPECT_LE(worst, 0.0741 * PowerLoss::smallLoss_m);  // 2/27 of it, by hand
}

}  // namespace
}  // namespace conduit
