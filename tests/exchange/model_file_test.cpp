#include "exchange/model_file.h"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <set>

#include <fstream>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validator.hpp>

#include "exchange/stock_files.h"
#include "model/costs.h"
#include "parts/registry.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit {
namespace {

std::string slurp(const std::string& path) {
  std::ifstream in(path);
  return {std::istreambuf_iterator<char>(in), {}};
}

TEST(ModelFile, writtenAndReadIsTheSameByteForByte) {
  for (const char* name : {"kestrel-fell", "millpond"}) {
    const auto n = loadModel(std::string(SOURCE_DIR "/samples/") + name + ".lconduit", &shippedStock());
    ASSERT_TRUE(n) << n.error().front().what;
    const std::string once = writeModel(*n);
    const auto again = readModel(once, &shippedStock());
    ASSERT_TRUE(again);
    EXPECT_EQ(writeModel(*again), once);
  }
  for (std::uint64_t seed = 0; seed < 20; ++seed) {
    const std::string once = writeModel(test::randomNetwork(seed, 60));
    const auto again = readDrawn(once, &shippedStock());
    ASSERT_TRUE(again) << again.error().front().what;
    EXPECT_EQ(writeModel(*again), once);
  }
}

// A file of each version, as a program of its day wrote it: what it says is still there, and written again in
// the present version it says the same.
TEST(ModelFile, everyVersionIsStillRead) {
  for (int version = 1; version <= modelVersion; ++version) {
    const std::string file = fmt::format(SOURCE_DIR "/tests/exchange/versions/version_{}.lconduit", version);
    const auto model = loadModel(file, &shippedStock());
    ASSERT_TRUE(model) << model.error().front().what;
    const Network& n = model->drawn;
    EXPECT_EQ(*n.job().text("title"), "Spring and cistern");
    EXPECT_EQ(n.count(), 5u);
    EXPECT_EQ(n.at(n.byName("L-1")).given("length")->typed, "240 m");
    EXPECT_TRUE(n.at(n.byName("V-1")).values.released("opening"));
    EXPECT_EQ(n.at(n.byName("V-1")).values.goal("flow")->typed, "3 L/s");
    const std::string now = writeModel(*model);
    EXPECT_NE(now.find("\"version\": 2"), std::string::npos);
    EXPECT_NE(now.find("\"survey\""), std::string::npos) << "what is not known is passed on";
    const auto again = readModel(now, &shippedStock());
    ASSERT_TRUE(again) << again.error().front().what;
    EXPECT_EQ(writeModel(*again), now);
    // What a first file has under the key of a study is somebody else's.
    EXPECT_EQ(model->cases.byName("cold night") != nullptr, version > 1);
    EXPECT_NE(now.find(version == 1 ? "\"cases (version 1)\"" : "\"cases\""), std::string::npos);
    if (version == 1) continue;
    EXPECT_NE(now.find(R"("sheet": {"paper":"A4"})"), std::string::npos) << "of a later program";
    EXPECT_DOUBLE_EQ(*costOf(model->costs, costs::hours), 6000 * 3600.0);
    EXPECT_DOUBLE_EQ(*costOf(model->costs, costs::motorEfficiency), 0.92);
    EXPECT_DOUBLE_EQ(*costOf(model->costs, costs::driveEfficiency), 1.0) << "nothing given: nothing lost";
    EXPECT_NE(now.find("\"interest\": \"2 %\""), std::string::npos) << "a cost that a later program knows";
  }
}

// Every kind of equipment, in a file of each version: nothing of it is unknown or lost, and it is solved.
TEST(ModelFile, everyKindOfEveryVersionIsStillRead) {
  for (int version = 1; version <= modelVersion; ++version) {
    const std::string file =
        fmt::format(SOURCE_DIR "/tests/exchange/versions/every_kind_{}.lconduit", version);
    const auto model = loadModel(file, &shippedStock());
    ASSERT_TRUE(model) << model.error().front().what;
    std::set<std::string_view> kinds;
    model->drawn.each([&](Id, const Element& e) {
      kinds.insert(e.part->key);
      EXPECT_TRUE(e.extra.empty()) << e.name << e.extra;
    });
    for (const Part* part : allParts())
      EXPECT_TRUE(part->ends == Ends::none ? !part->service || kinds.contains(part->key)
                                           : kinds.contains(part->key))
          << part->key << " of version " << version;
    const auto again = readModel(writeModel(*model), &shippedStock());
    ASSERT_TRUE(again) << again.error().front().what;
    EXPECT_EQ(writeModel(*again), writeModel(*model));
    EXPECT_TRUE(solve(model->drawn, &shippedStock()).summary.usable());
  }
}

TEST(ModelFile, costsThatCannotBeAreSaid) {
  const auto said = [](const char* costs) {
    const auto model = readModel(fmt::format(R"({{"format":"level-conduit","version":2,"costs":{}}})", costs),
                                 &shippedStock());
    return model ? std::string("read") : model.error().front().what;
  };
  EXPECT_EQ(said(R"({"hours in a year":"6000 h","tariff":"0.21"})"), "read");
  EXPECT_NE(said(R"({"hours in a year":"9000 h"})").find("out of range"), std::string::npos);
  EXPECT_NE(said(R"({"motor efficiency":"120 %"})").find("out of range"), std::string::npos);
  EXPECT_NE(said(R"([1])").find("\"costs\" must be an object"), std::string::npos);
  EXPECT_NE(said(R"({"tariff":{}})").find("must be a text"), std::string::npos);
}

TEST(ModelFile, keepsWhatItDoesNotKnow) {
  const std::string text =
      R"({"format":"level-conduit","version":1,"survey":{"by":"nobody"},"job":{"title":"x","phase":3},"points":[{"name":"A","height":"1 m","tag":[1,2]}],"elements":[{"kind":"nozzle","name":"Z","point":"A","K-factor":"80 L/min/bar^0.5","colour":"red"}]})";
  const auto n = readDrawn(text, &shippedStock());
  ASSERT_TRUE(n) << n.error().front().what;
  const std::string out = writeModel(*n);
  for (const char* kept :
       {R"("survey": {"by":"nobody"})", R"("phase": 3)", R"("tag": [1,2])", R"("colour": "red")"})
    EXPECT_NE(out.find(kept), std::string::npos) << kept << "\n" << out;
}

struct Bad {
  const char* name;
  std::string text;
  const char* says;
};
class BadModels : public testing::TestWithParam<Bad> {};

TEST_P(BadModels, areRefusedInWords) {
  const auto n = readDrawn(GetParam().text, &shippedStock());
  ASSERT_FALSE(n);
  std::string all;
  for (const Problem& p : n.error()) all += p.what + "\n";
  EXPECT_NE(all.find(GetParam().says), std::string::npos) << all;
}

std::string wrap(const std::string& points, const std::string& elements) {
  return "{\"format\":\"level-conduit\",\"version\":1,\n\"points\":[" + points + "],\n\"elements\":[" +
         elements + "]}";
}
const std::string two = R"({"name":"A","height":"1 m"},{"name":"B","height":"1 m"})";

INSTANTIATE_TEST_SUITE_P(
    Kinds, BadModels,
    testing::Values(
        Bad{"broken", "{\"format\":\n\"level", "line 2"}, Bad{"empty", "", "not JSON"},
        Bad{"other", R"({"a":1})", "not a Level Conduit model"},
        Bad{"newer", R"({"format":"level-conduit","version":7})", "version 7"},
        Bad{"no_version", R"({"format":"level-conduit"})", "version"},
        Bad{"utf8", "{\"format\":\"level-conduit\",\"version\":1,\"job\":{\"title\":\"\xff\xfe\"}}",
            "not JSON"},
        Bad{"deep",
            "{\"format\":\"level-conduit\",\"version\":1,\"x\":" + std::string(5000, '[') +
                std::string(5000, ']') + "}",
            "nested"},
        Bad{"kind", wrap(two, R"({"kind":"teapot","name":"X","from":"A","to":"B"})"),
            "unknown kind \"teapot\""},
        Bad{"dangling", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"Q"})"),
            "refers to Q, which does not exist"},
        Bad{"cyclic",
            wrap(
                two,
                R"({"kind":"pipe","name":"L","from":"A","to":"B"},{"kind":"pipe","name":"M","from":"L","to":"B"})"),
            "which is a pipe"},
        Bad{"same_end", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"A"})"), "same point"},
        Bad{"twice", wrap(two + R"(,{"name":"A"})", ""), "duplicate name"},
        Bad{"nameless", wrap(R"({"height":"1 m"})", ""), "no \"name\""},
        Bad{"negative", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"B","length":"-5 m"})"),
            "out of range"},
        Bad{"absurd", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"B","bore":"1e30 m"})"),
            "out of range"},
        Bad{"bare", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"B","length":120})"),
            "needs a unit of length"},
        Bad{"type", wrap(two, R"({"kind":"pipe","name":"L","from":"A","to":"B","length":{"a":1}})"),
            "must be a text"},
        Bad{"list_twice", R"({"format":"level-conduit","version":2,"points":[],"points":[]})",
            "\"points\" is given twice"},
        Bad{"twice_unknown", R"({"format":"level-conduit","version":2,"x":1,"x":2})", "\"x\" is given twice"},
        Bad{"list", R"({"format":"level-conduit","version":1,"points":{"a":1}})", "must be a list"},
        Bad{"spot", wrap(R"({"name":"A","at":["x",2]})", ""), "two numbers"},
        Bad{"table",
            wrap(two, R"({"kind":"pump","name":"P","from":"A","to":"B","curve":[{"flow":"0 L/s"}]})"),
            "has no head"},
        Bad{"unit", wrap(two, R"({"kind":"pipe","name":"L-9","from":"A","to":"B","length":"5 bananas"})"),
            "bananas"}),
    [](const auto& one) { return one.param.name; });

TEST(ModelFile, namesTheLineOfTheElement) {
  const auto n = readDrawn(
      "{\"format\":\"level-conduit\",\"version\":1,\n\"points\":[\n{\"name\":\"A\",\"height\":\"5 "
      "bananas\"}]}",
      &shippedStock());
  ASSERT_FALSE(n);
  EXPECT_NE(n.error().front().what.find("line 3: A: height"), std::string::npos) << n.error().front().what;
}

// The line of the field itself, in entries over several lines too, and of what has no name.
TEST(ModelFile, everyFaultNamesItsLine) {
  const auto n = readDrawn(
      "{\"format\":\"level-conduit\",\"version\":1,\n\"job\":{\n\"title\":\"[{\",\n\"temperature\":\"5 "
      "bananas\"},\n\"points\":[\n{\"name\":\"A\",\n\"height\":\"x\"},\n{\"height\":\"1 m\"},\n5],"
      "\n\"elements\":[\n{\"name\":\"L\",\n\"kind\":\"teapot\"}]}",
      &shippedStock());
  ASSERT_FALSE(n);
  std::vector<std::string> lines;
  for (const Problem& p : n.error()) lines.push_back(p.what.substr(0, p.what.find(':')));
  EXPECT_EQ(lines, (std::vector<std::string>{"line 4", "line 7", "line 8", "line 8", "line 12"}))
      << "what is no object is told of by the entry before it";
}

TEST(ModelFile, cutAnywhereIsRefusedWithoutHarm) {
  const std::string whole = slurp(SOURCE_DIR "/samples/millpond.lconduit");
  for (std::size_t cut = 0; cut < whole.size() - 2; cut += 7)
    EXPECT_FALSE(readDrawn(whole.substr(0, cut), &shippedStock()));
  test::Chance c{5};
  for (int i = 0; i < 400; ++i) {  // a byte struck anywhere: read or refused, never worse
    std::string hurt = whole;
    hurt[static_cast<std::size_t>(c.below(static_cast<int>(hurt.size())))] = static_cast<char>(c.below(256));
    const auto n = readDrawn(hurt, &shippedStock());
    if (n) EXPECT_FALSE(writeModel(*n).empty());
  }
}

TEST(ModelFile, savingIsWholeOrNotAtAll) {
  const auto dir = std::filesystem::temp_directory_path() / ("conduit-save-" + std::to_string(::getpid()));
  std::filesystem::create_directories(dir);
  const auto file = dir / "a.lconduit";
  ASSERT_TRUE(saveModel(Model(), file));
  const std::string before = slurp(file.string());
  const auto failed = saveModel(Model(), dir / "no" / "such" / "folder.lconduit");
  ASSERT_FALSE(failed);
  EXPECT_NE(failed.error().what.find("could not be written"), std::string::npos);
  EXPECT_EQ(slurp(file.string()), before);
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(dir), {}), 1) << "nothing is left beside";
  std::filesystem::remove_all(dir);
}

TEST(Schema, isCurrentAndTheSamplesKeepIt) {
  EXPECT_EQ(modelSchema(), slurp(SOURCE_DIR "/docs/model.schema.json"))
      << "renew it: level-conduit-cli schema > docs/model.schema.json";
  const auto schemaJson = nlohmann::json::parse(modelSchema());
  valijson::Schema schema;
  valijson::SchemaParser parser;
  valijson::adapters::NlohmannJsonAdapter adapter(schemaJson);
  parser.populateSchema(adapter, schema);
  for (const char* name : {"kestrel-fell", "millpond"}) {
    const auto model = nlohmann::json::parse(slurp(std::string(SOURCE_DIR "/samples/") + name + ".lconduit"));
    valijson::Validator validator;
    valijson::ValidationResults results;
    valijson::adapters::NlohmannJsonAdapter target(model);
    EXPECT_TRUE(validator.validate(schema, target, &results)) << name;
  }
}

TEST(ModelFile, aNumberThatNoComputerHoldsIsRefusedWithItsLine) {
  const auto n = readDrawn(
      "{\"format\":\"level-conduit\",\n\"version\":1,\n\"points\":[{\"name\":\"A\",\"height\":1.9e905}]}",
      &shippedStock());
  ASSERT_FALSE(n);
  EXPECT_NE(n.error().front().what.find("line 3"), std::string::npos) << n.error().front().what;
  EXPECT_NE(n.error().front().what.find("1.9e905"), std::string::npos);
}

}  // namespace
}  // namespace conduit
