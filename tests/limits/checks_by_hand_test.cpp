// What devices, pipes, tanks and the job are judged by, each number just inside and just outside, told by
// hand: the pressure before is held, the flow is drawn off as given.
#include "find/exchange.h"
#include "find/remedies.h"
#include "limits/limits.h"
#include "limits/not_judged.h"
#include "parts/flange.h"
#include "parts/pump/curve.h"
#include "plain_models.h"
#include "solve/solve.h"

namespace conduit::test::checksbyhand {
namespace {

constexpr auto broken = Severity::broken, near = Severity::near, note = Severity::note;
const std::string vapour = R"(,"vapour pressure":"2.3 kPa")";

std::optional<Severity> brokenAs(const Network& n, const Solution& answer, const std::string& name,
                                 CheckId id) {
  for (const Check& c : checksOf(n, answer, name == "job" ? jobId : n.byName(name), UnitSet::siWater()))
    if (c.id == id && c.broken()) return c.severity;
  return std::nullopt;
}

struct Held {
  const char* about;
  const char* kind;
  std::string fields;
  double before_bar, flow_Ls;
  CheckId check;
  std::optional<Severity> is;  // empty: kept
};
Network across(const Held& h, const std::string& job) {
  return model(
      point("A", 0) + "," + point("B", 0, flowField("outflow", h.flow_Ls / 1000)),
      fixedAt("F", "A", fmt::format("{} bar", h.before_bar)) + "," + device(h.kind, "X", "A", "B", h.fields),
      job);
}
void judge(const Held& h, const std::string& job) {
  const Network n = across(h, job);
  const Solution answer = solve(n, catalogue().get());
  ASSERT_TRUE(answer.summary.usable()) << h.about << ": " << answer.summary.full();
  EXPECT_EQ(brokenAs(n, answer, "X", h.check), h.is)
      << h.about << ": " << h.kind << " " << h.fields << " at " << h.flow_Ls << " L/s";
}

TEST(ChecksByHand, ofBodies) {
  // 50 mm: 1.9635e-3 m², 10 m/s are 19.635 L/s. 32 mm: 8.0425e-4 m², 6 m/s are 4.8255 L/s.
  for (const Held& h :
       {Held{"the usual", "control valve", R"("Kv":"100 Kv","bore":"50 mm")", 9, 19.7, CheckId::bodyVelocity,
             near},
        {"kept", "control valve", R"("Kv":"100 Kv","bore":"50 mm")", 9, 19.6, CheckId::bodyVelocity, {}},
        {"its own, 5 m/s", "control valve",
         R"("Kv":"100 Kv","bore":"50 mm","velocity in body at most":"5 m/s")", 9, 9.9, CheckId::bodyVelocity,
         broken},
        {"kept",
         "control valve",
         R"("Kv":"100 Kv","bore":"50 mm","velocity in body at most":"5 m/s")",
         9,
         9.8,
         CheckId::bodyVelocity,
         {}},
        {"without a bore there is none",
         "control valve",
         R"("Kv":"100 Kv")",
         9,
         19.7,
         CheckId::bodyVelocity,
         {}},
        {"6 m/s", "reducing valve", R"("set point":"1 bar","bore":"32 mm")", 3, 4.9, CheckId::bodyVelocity,
         near},
        {"kept",
         "reducing valve",
         R"("set point":"1 bar","bore":"32 mm")",
         3,
         4.8,
         CheckId::bodyVelocity,
         {}},
        {"10 m/s", "meter", R"("rated flow":"10 L/s","rated drop":"0.1 bar","bore":"50 mm")", 9, 19.7,
         CheckId::bodyVelocity, near},
        {"given alone", "isolating valve", R"("K":"0.2","bore":"50 mm","velocity in body at most":"3 m/s")",
         9, 5.9, CheckId::bodyVelocity, broken},
        {"kept",
         "isolating valve",
         R"("K":"0.2","bore":"50 mm","velocity in body at most":"3 m/s")",
         9,
         5.88,
         CheckId::bodyVelocity,
         {}}})
    judge(h, plainJob + vapour);
}

TEST(ChecksByHand, ofCavitationAndRatio) {
  // 7 bar g is 801 325 Pa, 799 025 over the vapour pressure. To 1.6 bar g: 799 025/540 000 = 1.4797; to 1.7:
  // 1.5076; to 2.7: 1.8582, 801 325/371 325 = 2.1580.
  const auto reducing = [](const char* set, const std::string& more = "") {
    return R"("set point":")" + std::string(set) + R"(","K":"1","bore":"100 mm")" + more;
  };
  for (const Held& h :
       {Held{"index", "reducing valve", reducing("1.6 bar"), 7, 5, CheckId::cavitationIndex, near},
        {"kept", "reducing valve", reducing("1.7 bar"), 7, 5, CheckId::cavitationIndex, {}},
        {"its own", "reducing valve", reducing("2.7 bar", R"(,"cavitation index at least":"1.86")"), 7, 5,
         CheckId::cavitationIndex, broken},
        {"kept",
         "reducing valve",
         reducing("2.7 bar", R"(,"cavitation index at least":"1.85")"),
         7,
         5,
         CheckId::cavitationIndex,
         {}},
        {"ratio", "reducing valve", reducing("2.7 bar", R"(,"pressure ratio at most":"2.15")"), 7, 5,
         CheckId::dropRatio, broken},
        {"kept",
         "reducing valve",
         reducing("2.7 bar", R"(,"pressure ratio at most":"2.16")"),
         7,
         5,
         CheckId::dropRatio,
         {}},
        {"of none that is asked for", "reducing valve", reducing("1 bar"), 7, 5, CheckId::dropRatio, {}},
        // 25 mm in 100 mm, C 0.599 by the charts: 799 025 Pa at √(2·799.025/(1 − 0.25⁴)) · 0.599 · 4.9087e-4
        // = 11.78 L/s; the charts are read to 1 %.
        {"the jet boils", "orifice plate", R"("bore":"25 mm","pipe bore":"100 mm")", 7, 11.95,
         CheckId::choking, near},
        {"kept", "orifice plate", R"("bore":"25 mm","pipe bore":"100 mm")", 7, 11.6, CheckId::choking, {}}})
    judge(h, plainJob + vapour);
}

TEST(ChecksByHand, ofTravelAndDiscs) {
  const auto valve = [](const std::string& more) { return R"("Kv":"100 Kv",)" + more; };
  // Swing check valves: 42.7/√1000 = 1.3503 m/s; in 50 mm 2.6514 L/s. 2 m/s are 3.9270 L/s.
  for (const Held& h :
       {Held{"nearly open", "control valve", valve(R"("opening":"91 %")"), 5, 10, CheckId::opening, near},
        {"within", "control valve", valve(R"("opening":"90 %")"), 5, 10, CheckId::opening, {}},
        {"nearly shut", "control valve", valve(R"("opening":"9 %")"), 5, 1, CheckId::opening, near},
        {"within", "control valve", valve(R"("opening":"10 %")"), 5, 1, CheckId::opening, {}},
        {"nobody said how far", "control valve", R"("Kv":"100 Kv")", 5, 10, CheckId::opening, {}},
        {"set once",
         "control valve",
         valve(R"("opening":"100 %","duty":"balancing")"),
         5,
         10,
         CheckId::opening,
         {}},
        {"specified", "control valve", valve(R"("opening":"81 %","opening at most":"80 %")"), 5, 10,
         CheckId::opening, broken},
        {"kept",
         "control valve",
         valve(R"("opening":"80 %","opening at most":"80 %")"),
         5,
         10,
         CheckId::opening,
         {}},
        {"Kv 102 in 50 mm: 102/(0.865·2500) = 0.0472", "control valve", R"("Kv":"102 Kv","bore":"50 mm")", 5,
         10, CheckId::valveCoefficient, note},
        {"Kv 101: 0.0467",
         "control valve",
         R"("Kv":"101 Kv","bore":"50 mm")",
         5,
         10,
         CheckId::valveCoefficient,
         {}},
        {"a disc flutters", "check valve", R"("bore":"50 mm")", 5, 2.6, CheckId::discVelocity, note},
        {"open", "check valve", R"("bore":"50 mm")", 5, 2.7, CheckId::discVelocity, {}},
        {"its own", "check valve", R"("bore":"50 mm","velocity to open":"2 m/s")", 5, 3.9,
         CheckId::discVelocity, broken},
        {"kept",
         "check valve",
         R"("bore":"50 mm","velocity to open":"2 m/s")",
         5,
         3.95,
         CheckId::discVelocity,
         {}}})
    judge(h, plainJob + vapour);
}

TEST(ChecksByHand, ofPipes) {
  // ν 1 mm²/s, 100 mm: Re 4000 at 0.31416 L/s, 2000 at 0.15708.
  const std::string line = R"("length":"10 m","bore":"100 mm","roughness":")";
  for (const Held& h : {Held{"transitional", "pipe", line + "0.1 mm\"", 1, 0.31, CheckId::regime, note},
                        {"turbulent", "pipe", line + "0.1 mm\"", 1, 0.32, CheckId::regime, {}},
                        {"transitional", "pipe", line + "0.1 mm\"", 1, 0.16, CheckId::regime, note},
                        {"laminar", "pipe", line + "0.1 mm\"", 1, 0.15, CheckId::regime, {}},
                        {"rougher than any chart", "pipe", line + "5.1 mm\"", 1, 5, CheckId::roughness, note},
                        {"just not", "pipe", line + "4.9 mm\"", 1, 5, CheckId::roughness, {}}})
    judge(h, plainJob + vapour);
  const auto laminar = [](double flow) {
    const Network n =
        across({"", "pipe", R"("length":"10 m","bore":"100 mm","roughness":"0.1 mm")", 1, flow, {}, {}},
               plainJob + vapour);
    for (const Finding& f : findings(n, solve(n, catalogue().get()), UnitSet::siWater()))
      if (f.what.starts_with("the flow is laminar in 1 line (X)")) return true;
    return false;
  };
  EXPECT_TRUE(laminar(0.15));
  EXPECT_FALSE(laminar(0.16));
  EXPECT_FALSE(laminar(0.0));
}

// ASME B16.5 and EN 1092-1, as recalled: PN 16 of steel 16 bar cold and 14.8 at 100 °C, Class 150 17.7 there,
// of 316 16.2; at 75 °C half way between 50 and 100: 18.45.
TEST(ChecksByHand, ofFlanges) {
  struct Row {
    double t_c;
    std::string fields;
    double before_bar;
    std::optional<Severity> is;
  };
  for (const Row& r :
       {Row{20, R"("flange class":"PN 16")", 16.05, broken},
        {20, R"("flange class":"pn16")", 15.95, {}},
        {100, R"("flange class":"PN 16")", 14.85, broken},
        {100, R"("flange class":"PN 16")", 14.75, {}},
        {100, R"("flange class":"PN 16","flange material":"ductile iron")", 15.95, {}},
        {100, R"("flange class":"Class 150")", 17.75, broken},
        {100, R"("flange class":"Class 150")", 17.65, {}},
        {75, R"("flange class":"Class 150")", 18.5, broken},
        {75, R"("flange class":"Class 150")", 18.4, {}},
        {100, R"("flange class":"Class 150","flange material":"stainless 316")", 16.25, broken},
        {20, R"("flange class":"PN 16","rating":"10 bar")", 10.05, broken},
        {20, R"("flange class":"PN 6","rating":"10 bar")", 6.05, broken},
        {20, R"("flange class":"PN 16","rating":"10 bar")", 9.95, {}}}) {
    const std::string job = fmt::format(R"("temperature":"{} °C")", r.t_c);
    for (const char* kind : {"isolating valve", "strainer", "own loss", "pipe"}) {
      const std::string fields =
          std::string(kind) == "isolating valve" ? R"("K":"0",)"
          : std::string(kind) == "strainer"      ? R"("rated flow":"100 L/s","clean drop":"0.01 bar",)"
          : std::string(kind) == "own loss"      ? R"("law":"K","K":"0.1","bore":"500 mm",)"
                                                 : R"("length":"1 m","bore":"500 mm","roughness":"0.1 mm",)";
      judge({"flanges", kind, fields + r.fields, r.before_bar, 1, CheckId::rating, r.is}, job);
    }
  }
  EXPECT_FALSE(flange::rating_pa("PN 16", "stainless 304", 60));
  EXPECT_FALSE(flange::rating_pa("Class 150", "grey iron", 20));
  EXPECT_FALSE(flange::rating_pa("Class 150", "carbon steel", 201));
  for (const char* wrong : {"PN 17", "16", "Class", "PN 16 bar", "class 16"})
    EXPECT_NE(flange::classFault(wrong), "") << wrong;
}

// Where nothing is known of a class at that temperature, that is said, and the field.
TEST(ChecksByHand, ofFlangesOfWhichNothingIsKnown) {
  const Held h{"", "isolating valve", R"("K":"0","flange class":"PN 16")", 20, 1, {}, {}};
  for (const auto& [job, count] :
       {std::pair(plainJob + vapour, 1u), {std::string(R"("temperature":"20 °C")"), 0u}}) {
    const Network n = across(h, job);
    const auto gaps = notJudged(n, solve(n, catalogue().get()));
    ASSERT_EQ(gaps.size(), count);
    if (count == 1) EXPECT_EQ(notJudgedSaid(n, gaps), "Pressure rating: 1 isolating valve");
  }
}

// Water of 90 °C boils at 0.7018 bar: from 7 bar a valve chokes; what leaves it at 0.61 bar stays vapour in
// part, at 0.81 the bubbles fall in.
TEST(ChecksByHand, flashingIsToldFromCavitation) {
  for (const auto& [after, id, other] : {std::tuple("-0.4 bar", CheckId::flashing, CheckId::choking),
                                         {"-0.2 bar", CheckId::choking, CheckId::flashing}}) {
    const Network n = model(point("A", 0) + "," + point("B", 0),
                            fixedAt("F", "A", "7 bar") + "," + fixedAt("G", "B", after) + "," +
                                device("control valve", "X", "A", "B", R"("Kv":"20 Kv","FL":"0.9")"),
                            R"("temperature":"90 °C")");
    const Solution answer = solve(n, catalogue().get());
    EXPECT_EQ(brokenAs(n, answer, "X", id), broken) << after;
    EXPECT_EQ(brokenAs(n, answer, "X", other), std::nullopt) << after;
  }
}

// From 10 m of level through a mouth of 100 mm, 10 L/s: v 1.27324 m/s, F 1.27324/√(9.80665·0.1) = 1.28573, S
// 0.1·(1 + 2.3·1.28573) = 0.39572 m. 20 m² over 6 m: 12 000 s.
TEST(ChecksByHand, ofTanks) {
  struct Row {
    std::string fields, connection;
    CheckId check;
    std::optional<Severity> is;
    std::string gaps;
  };
  const std::string mouth = R"("bore":"100 mm",)";
  for (const Row& r :
       {Row{"", mouth + R"("height":"9.605 m")", CheckId::submergence, near, ""},
        {"", mouth + R"("height":"9.6 m")", CheckId::submergence, {}, ""},
        {R"("submergence at least":"0.5 m",)", mouth + R"("height":"9.55 m")", CheckId::submergence, broken,
         ""},
        {R"("submergence at least":"0.5 m",)", mouth + R"("height":"9.45 m")", CheckId::submergence, {}, ""},
        {R"("bottom":"10.1 m",)", mouth + R"("height":"0 m")", CheckId::level, broken, ""},
        {R"("top":"9.9 m",)", mouth + R"("height":"0 m")", CheckId::level, broken, ""},
        {R"("bottom":"9.9 m","top":"10.1 m",)", mouth + R"("height":"0 m")", CheckId::level, {}, ""},
        {"", R"("height":"0 m")", CheckId::level, {}, "Entrance loss: 1 tank"},
        {"", R"("height":"0 m","entrance K":"0")", CheckId::level, {}, ""}}) {
    const Network n = model(point("A", 0, R"("outflow":"10 L/s")"),
                            R"({"kind":"tank","name":"X","level":"10 m",)" + r.fields +
                                R"("connections":[{"point":"A",)" + r.connection + "}]}",
                            plainJob + vapour);
    const Solution answer = solve(n, catalogue().get());
    ASSERT_TRUE(answer.summary.usable()) << answer.summary.full();
    EXPECT_EQ(brokenAs(n, answer, "X", r.check), r.is) << r.fields << r.connection;
    EXPECT_EQ(notJudgedSaid(n, notJudged(n, answer)), r.gaps) << r.connection;
  }
}

TEST(ChecksByHand, ofTheFrictionLaw) {
  for (const auto& [job, is] :
       {std::pair(std::string(R"("temperature":"26 °C")"), std::optional(near)),
        {R"("temperature":"24 °C")", std::nullopt},
        {R"("temperature":"4 °C")", near},
        {plainJob + vapour, near},
        {R"("liquid":"ethylene glycol","share":"30 %","temperature":"15 °C")", near}}) {
    const Held h{"", "pipe", R"("length":"10 m","bore":"100 mm","C":"130")", 1, 5, {}, {}};
    const Network n = across(h, job + R"(,"friction law":"Hazen-Williams")");
    const Solution answer = solve(n, catalogue().get());
    EXPECT_EQ(brokenAs(n, answer, "job", CheckId::frictionLaw), is) << job;
    const auto found = findings(n, answer, UnitSet::siWater());
    EXPECT_EQ(doubtfulSaid(n, found), is ? "Friction law" : "") << job;
    EXPECT_EQ(standing(found).broken, 0u);
  }
}

// By the job, by a service for those that name it, by the element itself; what cannot be stays.
TEST(ChecksByHand, whatDoesNotApplyIsLeftOutAndKeptInItsWords) {
  const std::string rated = R"("not applicable":"pressure RATING: tested to 20 bar; NPSH margin: flooded")";
  for (const auto& [job, own, service, left] :
       {std::tuple(std::string(), std::string(), std::string(), false),
        {"," + rated, "", "", true},
        {"", "," + rated, "", true},
        {"", R"(,"service":"Mains")", "," + rated, true},
        {"", "", "," + rated, false}}) {
    const Model m = plainModel(
        point("A", 0) + "," + point("B", 0, R"("outflow":"1 L/s")"),
        fixedAt("F", "A", "12 bar") + R"(,{"kind":"service","name":"Mains")" + service + "}," +
            device("pipe", "X", "A", "B",
                   R"("length":"1 m","bore":"100 mm","roughness":"0.1 mm","rating":"10 bar")" + own),
        "", vapour + job);
    const Solution answer = solve(m.drawn, catalogue().get());
    EXPECT_EQ(brokenAs(m.drawn, answer, "X", CheckId::rating).has_value(), !left) << job << own << service;
    // The points of a sweep are judged by another road.
    EXPECT_EQ(Gauges(m.drawn, answer).standing(m.drawn, answer).broken, left ? 1u : 2u) << "and shut-off";
    const auto said = notApplicable(m.drawn);
    if (left) {
      ASSERT_EQ(said.size(), 2u);
      EXPECT_EQ(said.front().check, "Pressure rating");
      EXPECT_EQ(said.front().why, "tested to 20 bar");
    }
  }
  for (const auto& [text, says] : {std::pair("Rating: x", "is not a check"),
                                   {"NPSH margin", "no reason"},
                                   {"Absolute pressure: x", "is not a check"}}) {
    const auto refused = readModel(R"({"format":"level-conduit","version":2,"job":{"not applicable":")" +
                                       std::string(text) + R"("},"points":[],"elements":[]})",
                                   &shippedStock());
    ASSERT_FALSE(refused) << text;
    EXPECT_NE(refused.error().front().what.find(says), std::string::npos) << refused.error().front().what;
  }
}

// What is not known of an element is not asked for where it does not apply.
TEST(ChecksByHand, whatDoesNotApplyIsNotMissed) {
  const Held h{
      "", "control valve", R"("Kv":"60 Kv","not applicable":"Choking: cold water, small drop")", 5, 5, {},
      {}};
  const Network n = across(h, plainJob + vapour);
  EXPECT_EQ(notJudgedSaid(n, notJudged(n, solve(n, catalogue().get()))), "");
}

// At no flow 40 m stand against 45: the level lower by a tenth more than is lacking, or at 2900·√(45/40)·1.05
// = 3230 rpm where so much is allowed. Stopping it comes last.
TEST(ChecksByHand, aDeadHeadedPumpIsHelped) {
  const std::string curve =
      R"("curve":[{"flow":"0 L/s","head":"40 m"},{"flow":"20 L/s","head":"32 m"},{"flow":"40 L/s","head":"12 m"}],"rated speed":"2900 rpm")";
  for (const auto& [more, faster] :
       {std::pair(std::string(), false), {R"(,"speed at most":"3300 rpm")", true}}) {
    const Model m =
        plainModel(point("S", 0) + "," + point("D", 0) + "," + point("E", 0),
                   tankAt("T", "S", "0 m", "0 m") + "," + device("pump", "P", "S", "D", curve + more) + "," +
                       kv60("V", "D", "E") + "," + tankAt("U", "E", "45 m", "0 m"),
                   "", vapour);
    const Solution answer = solve(m.drawn, catalogue().get());
    auto found = findings(m.drawn, answer, UnitSet::siWater());
    addTriedRemedies(found, m.drawn, answer, catalogue().get(), UnitSet::siWater());
    std::vector<std::string> words;
    for (const Finding& f : found)
      if (f.place.name == "P" && f.severity == broken)
        for (const Remedy& r : f.remedies) words.push_back(r.words);
    ASSERT_EQ(words.size(), faster ? 5u : 4u);  // and: stop it, reverse it
    std::size_t i = 0;
    if (faster) EXPECT_TRUE(words[i++].starts_with("Run P at 3 230 rpm")) << words.front();
    EXPECT_EQ(words[i].substr(0, 30), "Lower the level of U to 39.50 ") << words[i];
    EXPECT_EQ(words[i + 1], "Select another pump: shut-off head above 45.0 m");
    EXPECT_EQ(words[i + 2], "Stop P");
  }
}

// Of a pump of given head its flow is asked: that head can give it and comes before bores that can, and those
// before what cannot.
TEST(ChecksByHand, whatCanBeFoundIsRanked) {
  const Model m = plainModel(
      point("S", 0) + "," + point("D", 0) + "," + point("E", 0) + "," + point("G", 0),
      tankAt("T", "S", "0 m", "0 m") + "," +
          device("pump", "P", "S", "D", R"("described by":"given head","duty head":"20 m")") + "," +
          pipe("L1", "D", "E", 100) + "," + pipe("L2", "E", "G", 100) + "," + tankAt("U", "G", "5 m", "0 m"),
      "", vapour);
  const auto offered =
      exchangesFor(m.drawn, catalogue().get(), UnitSet::siWater(), m.drawn.byName("P"), "flow", "12 L/s", 4);
  ASSERT_TRUE(offered);
  EXPECT_EQ(offered->front().element, m.drawn.byName("P"));
  EXPECT_EQ(offered->front().field, "duty head");
  const Exchange own{.element = 5, .field = "duty head"}, other{.element = 9, .field = "bore"};
  const ExchangeTried can{.balances = true, .change = 2.0}, nearer{.balances = true, .change = 0.1},
      breaks{.balances = true, .broken = 1}, cannot{};
  EXPECT_TRUE(offeredBefore(own, can, other, nearer, 5)) << "the element's own fields first";
  EXPECT_TRUE(offeredBefore(other, nearer, other, can, 5)) << "then by how little must change";
  EXPECT_TRUE(offeredBefore(other, can, own, cannot, 5)) << "those that can first";
  EXPECT_TRUE(offeredBefore(other, can, own, breaks, 5)) << "and break no limit";
  EXPECT_TRUE(offeredBefore(other, can, own, std::nullopt, 5)) << "before what is not tried yet";
}

// [1 − 0.15·15^0.07]/0.85 with 15^0.07 = 1.20872: 0.96317.
TEST(ChecksByHand, ofALargePumpInASlightlyViscousLiquid) {
  EXPECT_NEAR(pump::slightlyViscous(0.85, 15e-6), 0.96317, 2e-5);
  EXPECT_NEAR(pump::slightlyViscous(0.85, 1e-6), 1.0, 1e-12);
}

}  // namespace
}  // namespace conduit::test::checksbyhand
