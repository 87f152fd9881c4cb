// A sizing keeps what is delivered: each taker gets what it takes now, less a share, in every case that
// counts. By trying every size of small networks, each solved by itself, and by hand.
#include "limits/deliveries.h"
#include <random>

#include "cases/case_edits.h"
#include "cases/year.h"
#include "cli/ran.h"
#include "model/sizing_setup.h"
#include "plain_models.h"
#include "sizing/search.h"
#include "sizing/words.h"

namespace conduit::test {
namespace {

std::string sized(const std::string& name, const std::string& from, const std::string& to, double length,
                  const std::string& size, const std::string& more = "") {
  return fmt::format(
      R"({{"kind":"pipe","name":"{}","from":"{}","to":"{}","length":"{} m","size":"ASME B36.10M {} 40","roughness":"0.05 mm"{}}})",
      name, from, to, length, size, more);
}
std::string fullTank(const std::string& name, const std::string& point, double level) {
  return tankAt(name, point, fmt::format("{} m", level), "0 m", "0.5");
}
SizingTask taskOf(const Model& m, Objective least = Objective::laid) {
  SizingOptions o = optionsOf(m.of<SizingSetup>());
  o.objective = least, o.trials = 4, o.seconds = 0;
  auto task = sizingTask(m, o, catalogue(), UnitSet::siWater());
  EXPECT_TRUE(task.has_value()) << (task ? "" : task.error().what);
  return task ? *task : SizingTask{};
}
double takenAt(const Network& n, const std::string& name) {
  const Solution s = answer(n);
  for (const Delivery& d : deliveriesOf(n, s))
    if (d.taker == n.byName(name)) return d.flow_m3s;
  return NAN;
}
// The cheapest size of the one line with which the taker gets that much, each solved by itself.
std::string cheapestBy(const SizingTask& task, const std::string& taker, double least) {
  std::string best;
  double cost = 1e300;
  for (std::size_t s = 0; s < task.rows[0].sizes.size(); ++s) {
    Draft d(task.model.drawn);
    giveSize(d, task.rows[0].lines[0], *task.rows[0].sizes[s]);
    if (takenAt(std::move(d).finish(), taker) < least || task.rows[0].laid[s] >= cost) continue;
    cost = task.rows[0].laid[s], best = task.rows[0].sizes[s]->name();
  }
  return best;
}

// From tank to tank through one line: nothing but the delivery asks for a size.
TEST(Deliveries, ofOneLineByEverySize) {
  const std::string points = point("A", 0) + "," + point("B", 0);
  const auto parts = [&](const std::string& more) {
    return fullTank("Upper", "A", 30) + "," + sized("L", "A", "B", 800, "6") + "," +
           tankAt("Lower", "B", "12 m", "0 m", "0.5").insert(1, more);
  };
  struct Asked {
    const char *sizing, *own;
    double share;  // of what it takes now; 0: nothing
    Duty::By by;
  };
  for (const Asked& a :
       {Asked{"", "", 0.98, Duty::By::drawn},
        {R"("delivery tolerance":"30 %")", "", 0.7, Duty::By::drawn},
        {R"("deliveries":[{"at":"Lower","less by":"60 %"}])", "", 0.4, Duty::By::loosened},
        {R"("deliveries":[{"at":"Lower"}])", "", 0.0, Duty::By::dropped},
        {R"("deliveries":[{"at":"Lower"}])", R"("flow in at least":"10 L/s",)", -0.010, Duty::By::own}}) {
    const Model m = plainModel(points, parts(a.own), std::string(R"("sizing":{)") + a.sizing + "}",
                               R"(,"velocity at most":"20 m/s")");
    const double now = takenAt(m.drawn, "Lower");
    const SizingTask task = taskOf(m);
    const SizingProposal p = searchSizes(task);
    const double least = a.share < 0 ? -a.share : now * a.share;
    // Whatever it may take, it goes on taking: no size turns it round.
    EXPECT_EQ(task.rows[0].sizes[p.choice[0]]->name(), cheapestBy(task, "Lower", std::max(least, 1e-9)))
        << a.sizing << a.own;
    ASSERT_EQ(p.delivered.size(), 1u);
    EXPECT_EQ(p.delivered[0].duty.by, a.by) << a.sizing << a.own;
    EXPECT_NEAR(p.delivered[0].duty.now_m3s, now, 1e-9);
    EXPECT_NEAR(*p.delivered[0].then_m3s, takenAt(withSizes(task, p.choice).drawn, "Lower"), 1e-8);
    EXPECT_TRUE(p.verdict.keeps());
    EXPECT_NE(dutySaid(task, p.delivered[0].duty), "");
  }
}

// Nobody has said what is needed where a size on the way is assumed, or the drawing cannot be solved.
TEST(Deliveries, whatNobodyHasSaidIsSaid) {
  Model m = plainModel(
      point("A", 0) + "," + point("B", 0),
      fullTank("Upper", "A", 30) + "," + sized("L", "A", "B", 800, "6") + "," + fullTank("Lower", "B", 12));
  {
    Draft d(m.drawn);
    ASSERT_TRUE(d.values(m.drawn.byName("L")).assume("size"));
    m.drawn = std::move(d).finish();
  }
  const SizingTask task = taskOf(m);
  const SizingProposal p = searchSizes(task);
  ASSERT_EQ(p.delivered.size(), 1u);
  EXPECT_EQ(p.delivered[0].duty.by, Duty::By::unknown);
  EXPECT_NE(unknownDeliveriesSaid(task, p.delivered).find("fed through L, whose size is assumed"),
            std::string::npos)
      << unknownDeliveriesSaid(task, p.delivered);
}

// A tank that gives goes on giving: of three tanks the middle one would, with a narrower line from the
// highest, give to the lowest more than it does, and with a wide one take.
TEST(Deliveries, suppliesKeepTheirPart) {
  const Model m = plainModel(point("A", 0) + "," + point("B", 0) + "," + point("C", 0) + "," + point("J", 0),
                             fullTank("High", "A", 40) + "," + fullTank("Middle", "B", 30) + "," +
                                 fullTank("Low", "C", 10) + "," + sized("L-1", "A", "J", 2000, "4") + "," +
                                 sized("L-2", "B", "J", 300, "6") + "," + sized("L-3", "J", "C", 900, "6"),
                             "", R"(,"velocity at most":"20 m/s")");
  ASSERT_LT(takenAt(m.drawn, "Middle"), 0) << "it gives";
  const SizingTask task = taskOf(m);
  Judge judge(task, 1);
  std::size_t roles = 0;
  for (std::uint16_t a = 0; a < task.rows[0].sizes.size(); ++a)
    for (std::uint16_t b = 0; b < task.rows[1].sizes.size(); ++b) {
      const SizeChoice choice{a, b, static_cast<std::uint16_t>(*task.rows[2].now)};
      const SizingVerdict v = judge.evaluate(choice, 0, true);
      const Network n = withSizes(task, choice).drawn;
      const bool gives = takenAt(n, "Middle") <= 0,
                 delivers = takenAt(n, "Low") >= 0.98 * takenAt(m.drawn, "Low") - 1e-9;
      EXPECT_EQ(v.keeps(), gives && delivers) << a << " " << b << (v.worst ? v.worst->what : "");
      roles += !gives;
    }
  EXPECT_GT(roles, 5u) << "else this proves nothing";
}

// Energy for the volume that is delivered now, by hand: what runs, times the hours that the same volume
// takes, never more than the year has.
TEST(Deliveries, energyIsOfTheVolumeDeliveredNow) {
  const auto lift = [&](const std::string& sizing, const std::string& hours) {
    return plainModel(
        point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
        fullTank("Well", "A", 5) + "," + fullTank("Tower", "C", 25) + "," +
            device(
                "pump", "P", "A", "B",
                R"("curve":[{"flow":"0 L/s","head":"45 m","efficiency":"0.5"},{"flow":"20 L/s","head":"40 m","efficiency":"0.7"},{"flow":"50 L/s","head":"15 m","efficiency":"0.6"}])") +
            "," + sized("L", "B", "C", 600, "6"),
        R"("costs":{"tariff":"0.2","years":"10","hours in a year":")" + hours + R"("},"sizing":{)" + sizing +
            "}",
        R"(,"velocity at most":"20 m/s")");
  };
  for (const bool equal : {true, false})
    for (const char* hours : {"1000 h", "8500 h"}) {
      const Model m = lift(
          std::string(R"("delivery tolerance":"60 %")") + (equal ? "" : R"(,"energy at equal volume":false)"),
          hours);
      const SizingTask task = taskOf(m, Objective::wholeLife);
      Judge judge(task, 1);
      const double now = takenAt(m.drawn, "Tower"), h = hoursOf(m, drawingCase);
      ASSERT_GT(h, 0);
      for (std::uint16_t s = 0; s < task.rows[0].sizes.size(); ++s) {
        const SizingVerdict v = judge.evaluate({s}, 0);
        if (!v.balanced) continue;
        const Network n = withSizes(task, {s}).drawn;
        const double then = takenAt(n, "Tower");
        const Solution answered = answer(n);
        const double wire_w =
            powerOf(task, n.at(n.byName("P")), *ReadingOf(n, answered, n.byName("P"))).wire_w;
        const double stretched = !equal     ? h
                                 : then > 0 ? std::min(h * now / then, std::max(h, 8760 * 3600.0))
                                            : std::max(h, 8760 * 3600.0);
        EXPECT_NEAR(v.energy_j, wire_w * stretched, 1e-6 * wire_w * stretched) << s;
        ASSERT_EQ(v.hoursOf.size(), 1u);
        EXPECT_NEAR(v.hoursOf[0].second, stretched, 1e-6 * stretched) << s;
        EXPECT_NEAR(v.volume_m3, std::max(0.0, then) * stretched, 1e-6 * now * h) << s;
        if (then > 1e-6) EXPECT_NEAR(*v.perCubicMetre(10), v.wholeLife / (10 * then * stretched), 1e-9) << s;
      }
    }
}

// Random networks of a tank, lines with a loop or none, nozzles that some cases close, lower tanks: whatever
// is proposed as keeping the limits, each case solved apart delivers what it must.
TEST(Deliveries, everyProposalSolvedApartKeepsThem) {
  std::size_t kept = 0, takers = 0;
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    std::mt19937_64 chance(seed * 7919 + 1);
    const auto between = [&](double a, double b) {
      return a + (b - a) * static_cast<double>(chance() % 10001) / 10000;
    };
    const int n = 4 + static_cast<int>(chance() % 5);
    constexpr const char* sizes[] = {"1-1/2", "2", "2-1/2", "3", "4", "6"};
    std::string points, elements = fullTank("T", "P0", between(40, 60));
    std::string closed;
    for (int i = 0; i < n; ++i)
      points += (i ? "," : "") + point(fmt::format("P{}", i), i == 0 ? 0.0 : between(0, 8));
    for (int i = 1; i < n; ++i) {
      elements += "," + sized(fmt::format("L-{}", i), fmt::format("P{}", chance() % static_cast<unsigned>(i)),
                              fmt::format("P{}", i), between(20, 200), sizes[chance() % 6]);
      if (chance() % 3 == 0 && i + 1 < n) continue;
      if (chance() % 4 == 0) {
        elements += "," + fullTank(fmt::format("S{}", i), fmt::format("P{}", i), between(10, 25));
      } else {
        elements += fmt::format(
            R"(,{{"kind":"nozzle","name":"Z{}","point":"P{}","K-factor":"{:.4g} L/min/bar^0.5"}})", i, i,
            between(20, 120));
        if (chance() % 2)
          closed += fmt::format(R"({}{{"element":"Z{}","open":false}})", closed.empty() ? "" : ",", i);
      }
    }
    if (seed % 2)
      elements += "," + sized("L-x", "P1", fmt::format("P{}", n - 1), between(20, 200), sizes[chance() % 6]);
    const Model m =
        plainModel(points, elements,
                   R"("cases":[{"drawing":true,"name":"All"},{"name":"Some","differs":[)" + closed + "]}]",
                   R"(,"velocity at most":"30 m/s")");
    const auto task =
        sizingTask(m, {.objective = Objective::laid, .trials = 2}, catalogue(), UnitSet::siWater());
    if (!task) continue;
    const SizingProposal p = searchSizes(*task);
    if (!p.verdict.keeps()) continue;
    ++kept;
    const Model with = withSizes(*task, p.choice);
    for (const CaseId id : m.cases.ids()) {
      const Network before = networkOf(m, id), after = networkOf(with, id);
      const Solution was = answer(before), is = answer(after);
      for (const DeliveryChange& d : deliveryChanges(deliveriesOf(before, was), deliveriesOf(after, is))) {
        if (d.now_m3s < 1e-5) continue;
        EXPECT_GE(d.share(), 0.98 - 1e-6) << seed << " " << m.drawn.at(d.taker).name;
        ++takers;
      }
    }
    EXPECT_LE(p.verdict.objective, p.now ? p.now->objective * (1 + 1e-9) : 1e300) << seed;
  }
  EXPECT_GT(kept, 150u);
  EXPECT_GT(takers, 500u);
}

// The main sample: a short search takes nothing from anybody.
TEST(Deliveries, ofTheMainSample) {
  auto model = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock());
  ASSERT_TRUE(model.has_value());
  SizingOptions o = optionsOf(model->of<SizingSetup>());
  o.trials = 1, o.seconds = 0;
  const auto task = sizingTask(*model, o, catalogue(), UnitSet::siWater());
  ASSERT_TRUE(task.has_value());
  const SizingProposal p = searchSizes(*task);
  ASSERT_TRUE(p.verdict.keeps());
  const Model with = withSizes(*task, p.choice);
  for (const CaseId id : task->cases) {
    const Network before = networkOf(*model, id), after = networkOf(with, id);
    const Solution was = answer(before), is = answer(after);
    for (const DeliveryChange& d : deliveryChanges(deliveriesOf(before, was), deliveriesOf(after, is)))
      if (d.now_m3s > 1e-6) EXPECT_GE(d.share(), 0.98 - 1e-6) << model->drawn.at(d.taker).name;
    // The booster whose speed is found stays within its rated 2 970 rpm; pumps that ran where they should do.
    after.each([&](Id pump, const Element& e) {
      if (e.part->key == "pump")
        if (const auto found = is.foundFor(pump, "speed"))
          EXPECT_LE(*found * 60, 2970 * (1 + 1e-9)) << e.name;
    });
  }
  // As drawn the intake pumps lack margin with the tarn at its lowest: wider suction lines cost what others
  // save.
  EXPECT_GT(p.now->violation, 0.0);
  EXPECT_LT(std::abs(1 - p.verdict.wholeLife / p.now->wholeLife), 0.05) << "no more than sizes can save";
}

TEST(Deliveries, atTheCommandLine) {
  const std::string path =
      scratch(R"({"format":"level-conduit","version":2,"job":{"velocity at most":"20 m/s"},"points":[)" +
              point("A", 0) + "," + point("B", 0) + R"(],"elements":[)" + fullTank("Upper", "A", 30) + "," +
              sized("L", "A", "B", 800, "6") + "," + fullTank("Lower", "B", 12) + "]}");
  const Ran said = ran({"size", path, "--least", "laid", "--seconds", "5", "--trials", "2"});
  EXPECT_EQ(said.status, 0) << said.err << said.out;
  EXPECT_NE(said.out.find("present flow less 2 %"), std::string::npos) << said.out;
  const auto json =
      ran({"size", path, "--least", "laid", "--trials", "2", "--json", "--delivery-tolerance", "80 %"})
          .json();
  ASSERT_EQ(json["deliveries"].size(), 1u);
  EXPECT_EQ(json["deliveries"][0]["at"], "Lower");
  EXPECT_GE(json["deliveries"][0]["share"].get<double>(), 0.2);
  EXPECT_LT(json["deliveries"][0]["share"].get<double>(), 0.98);
  const auto dropped =
      ran({"size", path, "--least", "laid", "--trials", "2", "--json", "--drop-delivery", "Lower"}).json();
  EXPECT_EQ(dropped["deliveries"][0]["basis"], "dropped");
  EXPECT_LT(dropped["deliveries"][0]["share"].get<double>(), 0.2);
  for (const auto& [option, value, words] : {std::tuple{"--delivery-tolerance", "120 %", "0 to 100 %"},
                                             {"--drop-delivery", "L", "takes nothing"},
                                             {"--drop-delivery", "Moon", "there is no user"}}) {
    const Ran refused = ran({"size", path, option, value});
    EXPECT_EQ(refused.status, 3) << option;
    EXPECT_NE(refused.err.find(words), std::string::npos) << refused.err;
  }
}

}  // namespace
}  // namespace conduit::test
