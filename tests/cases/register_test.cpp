// The register of limits by hand: which stand, who says them, the worst over the cases.
#include "cases/register.h"

#include "cli/ran.h"
#include "plain_models.h"

namespace conduit::test {
namespace {

// Water drawn through two lines one behind the other: 10 L/s and, in the second case, 14 L/s; behind the
// first point 3 L/s less. v = 4 Q/(π d²).
const std::string text =
    R"({"format":"level-conduit","version":2,"job":{"liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s","velocity at most":"2 m/s"},
"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m","outflow":"3 L/s"},{"name":"C","height":"0 m","outflow":"7 L/s","pressure at least":"1 bar"}],
"elements":[{"kind":"fixed pressure","name":"S","point":"A","pressure":"3 bar","flow in at most":"12 L/s"},
{"kind":"pipe","name":"L-1","from":"A","to":"B","length":"10 m","bore":"100 mm","roughness":"0.1 mm","service":"Mains"},
{"kind":"pipe","name":"L-2","from":"B","to":"C","length":"10 m","bore":"80 mm","roughness":"0.1 mm"},
{"kind":"service","name":"Mains","velocity at most":"1.5 m/s"}],
"cases":[{"drawing":true,"name":"Base case","hours in a year":"100 h"},{"name":"Peak","hours in a year":"10 h","differs":[{"element":"C","outflow":"11 L/s"}]}]})";

TEST(Register, byHand) {
  const auto model = readModel(text, &shippedStock());
  ASSERT_TRUE(model.has_value()) << model.error().front().what;
  const auto answers =
      balanceCases(*model, model->cases.ids(), std::make_shared<const Stock>(shippedStock()));
  const auto rows = limitRegister(answers);
  const auto find = [&](CheckId check, bool most, LimitFrom from) -> const RegisterRow* {
    for (const RegisterRow& r : rows)
      if (r.check == check && r.most == most && r.from == from) return &r;
    return nullptr;
  };
  const auto v = [](double m3s, double bore) { return 4 * m3s / (M_PI * bore * bore); };
  const RegisterRow* job = find(CheckId::velocity, true, LimitFrom::job);
  ASSERT_TRUE(job);
  EXPECT_EQ(job->elements, 1u) << "L-1 is held by its service";
  EXPECT_DOUBLE_EQ(job->limit, 2.0);
  EXPECT_NEAR(job->worst, v(0.011, 0.08), 1e-9);
  EXPECT_EQ(model->drawn.at(job->worstAt).name, "L-2");
  EXPECT_EQ(model->cases.find(job->worstIn)->name, "Peak");
  EXPECT_TRUE(job->broken());
  const RegisterRow* mains = find(CheckId::velocity, true, LimitFrom::service);
  ASSERT_TRUE(mains);
  EXPECT_EQ(sourceSaid(*mains), "service Mains");
  EXPECT_NEAR(mains->worst, v(0.014, 0.1), 1e-9);
  EXPECT_TRUE(mains->broken());
  const RegisterRow* flow = find(CheckId::flowIn, true, LimitFrom::own);
  ASSERT_TRUE(flow);
  EXPECT_NEAR(flow->worst, 0.014, 1e-9);
  EXPECT_EQ(heldSaid(*flow, *model), "S");
  const RegisterRow* pressure = find(CheckId::pressure, false, LimitFrom::own);
  ASSERT_TRUE(pressure);
  EXPECT_FALSE(pressure->broken());
  EXPECT_GT(pressure->worst, 2.5e5);
  const RegisterRow* vapour = find(CheckId::vapour, false, LimitFrom::law);
  ASSERT_TRUE(vapour);
  EXPECT_EQ(vapour->elements, 3u);
  EXPECT_EQ(heldSaid(*vapour, *model), "3 points");
  // Broken ones stand first, the one furthest beyond before the others.
  for (std::size_t i = 1; i < rows.size(); ++i) {
    EXPECT_GE(rows[i - 1].broken(), rows[i].broken());
    if (rows[i - 1].broken() == rows[i].broken()) EXPECT_GE(rows[i - 1].beyond, rows[i].beyond);
  }
}

// Level 692.4 m under a top of 693 m: 0.6 m to spare, wherever heights are counted from; a share of 693 m
// would say 0.09 %, of the same tank counted from its floor 16 %.
TEST(Register, levelsAreToSpareInMetresWhateverTheDatum) {
  for (const double datum : {0.0, 689.2, 3000.0}) {
    const auto metres = [&](double z) { return fmt::format("{} m", z + datum); };
    const Ran said =
        ran({"solve",
             scratch(R"({"format":"level-conduit","version":2,"points":[)" + point("A", datum) + "," +
                     point("B", datum) + R"(],"elements":[{"kind":"tank","name":"T","level":")" +
                     metres(3.2) + R"(","bottom":")" + metres(0.1) + R"(","top":")" + metres(3.8) +
                     R"(","connections":[{"point":"A","height":")" + metres(0) + R"("}]},)" +
                     pipe("L", "A", "B", 50) +
                     R"(,{"kind":"fixed pressure","name":"F","point":"B","pressure":"2 bar"}]})"),
             "--limits"});
    EXPECT_NE(said.out.find("0.60 m"), std::string::npos) << said.out;
    EXPECT_NE(said.out.find("3.1 m"), std::string::npos) << said.out;
  }
}

// A rating of 10 bar of a line, of 10 bar of an exchanger: one limit of two kinds.
TEST(Register, aLimitOfMoreThanOneKindHoldsElements) {
  const Ran said =
      ran({"solve",
           fileOf(point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
                  fixedAt("F", "A", "5 bar") + "," +
                      pipe("L", "A", "B", 10, "100 mm", R"("rating":"10 bar")") + "," +
                      device("exchanger", "E", "B", "C",
                             R"("rated flow":"18 L/s","rated drop":"0.4 bar","rating":"10 bar")") +
                      "," + fixedAt("G", "C", "4 bar")),
           "--limits"});
  EXPECT_NE(said.out.find("2 elements"), std::string::npos) << said.out;
  EXPECT_EQ(said.out.find("2 lines"), std::string::npos) << said.out;
}

TEST(Register, atTheCommandLine) {
  const std::string path = scratch(text);
  const Ran said = ran({"solve", path, "--limits"});
  EXPECT_EQ(said.status, 1) << said.err;
  for (const char* words :
       {"Velocity ≤ 1.50 m/s", "service Mains", "Peak", "not met", "Pressure ≥ 1.00 bar g"})
    EXPECT_NE(said.out.find(words), std::string::npos) << words << "\n" << said.out;
  const Ran json = ran({"solve", path, "--limits", "--json"});
  const auto all = json.json();
  ASSERT_TRUE(all["limits"].is_array());
  EXPECT_EQ(all["limits"][0]["met"], false);
  EXPECT_EQ(ran({"solve", path, "--limits", "--all-cases"}).status, 3);
}

}  // namespace
}  // namespace conduit::test
