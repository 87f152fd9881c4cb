// Every command refuses what it cannot use: with the exit status for it, a sentence on the error stream that
// says what is wrong and what would be right, and without having written a file.
#include <gtest/gtest.h>

#include <filesystem>
#include <ostream>

#include "cli/ran.h"

namespace conduit::cli {
namespace {

using namespace test;

using Words = std::vector<std::string>;

struct Refusal {
  std::string name;
  Words arguments;
  Words says;  // pieces of the message, in any order
};
void PrintTo(const Refusal& r, std::ostream* out) { *out << r.name; }

const std::string speed = "B-1 speed", held = "2600 rpm";

std::vector<Refusal> refusals() {
  const std::string nowhere = "/no/such/folder/";
  Words threeVaried{"sweep", kestrel};
  for (const char* pump : {"B-1", "P-1", "P-2"})
    threeVaried.insert(threeVaried.end(), {"--vary", std::string(pump) + " speed", "--over", held});
  return {
      // What is no command, no option, no file.
      {"nothing", {}, {"name a command", "solve", "balance"}},
      {"noCommand", {"teapot"}, {"no command \"teapot\"", "sweep", "gather"}},
      {"noFileNamed", {"solve"}, {"FILE", "required"}},
      {"noSuchOption", {"solve", kestrel, "--colour"}, {"--colour"}},
      {"tooMuch", {"schema", "extra"}, {"extra"}},
      {"noFile", {"cases", "/no/such"}, {"/no/such: file not found"}},
      {"aFolder", {"solve", samples}, {samples}},
      {"noModel", {"solve", SOURCE_DIR "/stock/pipes.csv"}, {"line 1"}},
      {"pumpsNoFile", {"pumps", "/no/such"}, {"file not found"}},
      {"sizeNoFile", {"size", "/no/such"}, {"file not found"}},
      {"balanceNoFile", {"balance", "/no/such"}, {"file not found"}},
      // Units and cases, by every command that takes them.
      {"unitsOfSolve",
       {"solve", millpond, "--units", "furlongs"},
       {"\"furlongs\"", "\"SI water\"", "\"US\""}},
      {"unitsOfCases", {"cases", millpond, "--units", "furlongs"}, {"\"SI process\""}},
      {"unitsOfSize", {"size", twoLoops, "--units", "furlongs"}, {"\"SI process\""}},
      {"unitsOfSweep", {"sweep", kestrel, "--units", "x"}, {"unknown unit set \"x\""}},
      {"unitsOfPumps", {"pumps", kestrel, "--units", "x"}, {"unknown unit set \"x\""}},
      {"unitsOfBalance", {"balance", larch, "--units", "x"}, {"unknown unit set \"x\""}},
      {"caseOfSolve",
       {"solve", kestrel, "--case", "Frost"},
       {"no case \"Frost\"", "\"Cold night\"", "\"Refill\""}},
      {"caseOfPumps", {"pumps", kestrel, "--case", "Frost"}, {"no case \"Frost\"", "\"Refill\""}},
      {"caseOfBalance", {"balance", larch, "--case", "Frost"}, {"no case \"Frost\"", "\"Base case\""}},
      {"caseOfSize", {"size", twoLoops, "--line", "L-1", "--case", "Frost"}, {"no case \"Frost\""}},
      {"caseOfSweep",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--case", "Frost"},
       {"no case \"Frost\""}},
      // Remedies and records.
      {"remedyBeyond", {"solve", kestrel, "--apply-remedy", "99"}, {"no remedy 99", "1 to 3"}},
      {"remedyZero", {"solve", kestrel, "--apply-remedy", "0"}, {"no remedy 0"}},
      {"remedyWhereNone", {"solve", millpond, "--apply-remedy", "1"}, {"no remedy 1", "none"}},
      {"remedyNoNumber", {"solve", kestrel, "--apply-remedy", "x"}, {"--apply-remedy"}},
      {"writeWithoutRemedy", {"solve", kestrel, "--write", "x"}, {"--write", "--apply-remedy"}},
      {"remedyOfAllCases",
       {"solve", kestrel, "--all-cases", "--apply-remedy", "1"},
       {"--all-cases", "--apply-remedy"}},
      {"recordNowhere",
       {"solve", millpond, "--record", nowhere + "r"},
       {"record cannot be written", nowhere}},
      {"remedyNowhere",
       {"solve", larch, "--apply-remedy", "1", "--write", nowhere + "m"},
       {nowhere, "could not be written"}},
      // Sweeps.
      {"sweepOfNothing", {"sweep", kestrel}, {"--vary", "--rows"}},
      {"sweepWithoutValues", {"sweep", kestrel, "--vary", speed}, {"each --vary needs its --over"}},
      {"sweepOfThree", threeVaried, {"at most two", "--rows"}},
      {"sweepNoField",
       {"sweep", kestrel, "--vary", "B-1 happiness", "--over", "1"},
       {"not a field of B-1", "rated speed"}},
      {"sweepNoElement", {"sweep", kestrel, "--vary", "Q-1 speed", "--over", held}, {"\"Q-1 speed\""}},
      {"sweepNoNumber", {"sweep", kestrel, "--vary", speed, "--over", "soon"}, {"\"soon\""}},
      {"sweepOtherUnit",
       {"sweep", kestrel, "--vary", speed, "--over", "26 bar"},
       {"not a unit of rotational speed", "rpm"}},
      {"sweepNoStep",
       {"sweep", kestrel, "--vary", speed, "--over", "1 rpm to 2 rpm in 0"},
       {"\"0\" is not a number of steps"}},
      {"sweepStepInWords",
       {"sweep", kestrel, "--vary", speed, "--over", "1 rpm to 2 rpm in some"},
       {"\"some\" is not a number of steps"}},
      // A number it is, but more than there is room for.
      {"sweepTooManySteps",
       {"sweep", kestrel, "--vary", speed, "--over", "1 rpm to 2 rpm in 99999999"},
       {"maximum 100 000 values"}},
      {"sweepFarTooMany",
       {"sweep", kestrel, "--vary", speed, "--over", "1 rpm to 2 rpm in 99999999999999999999"},
       {"maximum 100 000 values"}},
      {"sweepTooManyPoints",
       {"sweep", kestrel, "--vary", speed, "--over", "1 rpm to 2 rpm in 9999", "--vary", "P-1 speed",
        "--over", "1 rpm to 2 rpm in 9999"},
       {"maximum 10 000 000 points"}},
      {"sweepNothingWatched",
       {"sweep", millpond, "--vary", "job temperature", "--over", "5 °C"},
       {"no result to record", "--watch"}},
      {"sweepWatchesNothing",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--watch", "moon phase"},
       {"\"moon phase\" is not a result"}},
      {"sweepTwice",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--vary", speed, "--over", held},
       {"B-1 speed is varied twice"}},
      {"partOfNothing",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--part", "3"},
       {"\"3\" is not a part such as 3/16"}},
      {"partZero", {"sweep", kestrel, "--vary", speed, "--over", held, "--part", "0/3"}, {"\"0/3\""}},
      {"partBeyond", {"sweep", kestrel, "--vary", speed, "--over", held, "--part", "4/3"}, {"\"4/3\""}},
      {"threadsNegative",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--threads", "-1"},
       {"--threads", "0 to 1024"}},
      {"sweepNowhere",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--write", nowhere + "x.csv"},
       {nowhere, "could not be written"}},
      {"sweepSheetNowhere",
       {"sweep", kestrel, "--vary", speed, "--over", held, "--write", nowhere + "x.xlsx"},
       {nowhere, "could not be written"}},
      {"rowsNowhere", {"sweep", kestrel, "--rows", "/no/such.csv"}, {"/no/such.csv: file not found"}},
      {"rowsAFolder", {"sweep", kestrel, "--rows", samples}, {"not a file"}},
      {"rowsAndVary",
       {"sweep", kestrel, "--rows", "x", "--vary", speed, "--over", held},
       {"--rows", "--vary"}},
      {"gatherNowhere", {"gather", "/no/such.json"}, {"/no/such.json: file not found"}},
      {"gatherNoSweep", {"gather", kestrel}, {"not a sweep file"}},
      // Pumps.
      {"curveOfNoPump", {"pumps", kestrel, "--curve"}, {"--pump NAME", "--at NAME"}},
      {"candidatesOfNoPump", {"pumps", kestrel, "--candidates"}, {"--pump NAME"}},
      {"pumpUnknown", {"pumps", kestrel, "--pump", "Q-9"}, {"no element \"Q-9\""}},
      {"pumpOfOnlyCommas", {"pumps", kestrel, "--pump", " , ,"}, {"names no element"}},
      {"pumpThatIsALine", {"pumps", kestrel, "--pump", "L-1"}, {"L-1 is not a pump", "--at \"L-1\""}},
      {"pumpAndPlace", {"pumps", kestrel, "--pump", "P-1", "--at", "Tarn"}, {"--pump", "--at"}},
      {"shareInWords", {"pumps", kestrel, "--at", "Tarn", "--share", "much"}, {"--share", "\"much\""}},
      {"shareOfWhom", {"pumps", kestrel, "--at", "Tarn", "--share", "35 %"}, {"--other NAME"}},
      {"shareWithNobody",
       {"pumps", kestrel, "--at", "Tarn", "--share", "35 %", "--other", "Moon"},
       {"no element \"Moon\""}},
      {"shareOverAll",
       {"pumps", kestrel, "--at", "Tarn", "--share", "150 %", "--other", "Top tank"},
       {"above 0 and at most 100 %"}},
      {"shareNegative",
       {"pumps", kestrel, "--at", "Tarn", "--share", "-5 %", "--other", "Top tank"},
       {"above 0 and at most 100 %"}},
      {"leastWithoutShare",
       {"pumps", kestrel, "--at", "Tarn", "--least-pressure", "2 bar"},
       {"--least-pressure", "--share"}},
      {"mostOtherUnit",
       {"pumps", kestrel, "--pump", "P-1", "--curve", "--most", "3 bar"},
       {"--most", "not a unit of flow"}},
      {"mostNegative",
       {"pumps", kestrel, "--pump", "P-1", "--curve", "--most", "-3 L/s"},
       {"--most", "above zero"}},
      {"mostZero",
       {"pumps", kestrel, "--pump", "P-1", "--curve", "--most", "0 L/s"},
       {"--most", "above zero"}},
      {"flowOtherUnit",
       {"pumps", kestrel, "--pump", "P-1", "--curve", "--flow", "3 bar"},
       {"--flow", "not a unit of flow"}},
      {"headOtherUnit",
       {"pumps", kestrel, "--pump", "P-1", "--candidates", "--head", "3 L/s"},
       {"--head", "not a unit"}},
      {"flowForNothing", {"pumps", kestrel, "--pump", "P-1", "--flow", "3 L/s"}, {"--flow needs --curve"}},
      {"headForNothing", {"pumps", kestrel, "--pump", "P-1", "--head", "3 m"}, {"--head needs --curve"}},
      {"inSeriesApart",
       {"pumps", kestrel, "--pump", "P-1, B-1", "--curve"},
       {"in series", "different flows"}},
      {"pumpTwice", {"pumps", kestrel, "--pump", "P-1, P-1", "--curve"}, {"P-1 is named twice"}},
      {"holdInWords",
       {"pumps", kestrel, "--pump", "P-1", "--hold", "soon"},
       {"--hold", "neither a pressure nor a flow"}},
      {"holdNowhere",
       {"pumps", kestrel, "--pump", "P-1", "--hold", "4 bar at Moon"},
       {"no element \"Moon\""}},
      {"sheetOfNoPump", {"pumps", kestrel, "--at", "Tarn", "--sheet"}, {"data sheet needs a pump"}},
      // Sizes.
      {"lineUnknown", {"size", twoLoops, "--line", "L-99"}, {"no line \"L-99\""}},
      {"lineThatIsAPoint", {"size", twoLoops, "--line", "2"}, {"no line \"2\""}},
      {"lineOfOnlyCommas", {"size", twoLoops, "--line", ","}, {"names no line"}},
      {"sizesUnknown", {"size", twoLoops, "--sizes", "Rope 4"}, {"--sizes", "\"Rope 4\""}},
      {"sizesBackwards", {"size", twoLoops, "--sizes", "Loop A from 10 to 2"}, {"size 10 is larger than 2"}},
      {"sizesBeyond", {"size", twoLoops, "--sizes", "Loop A from 2 to 99"}, {"no size 99 of Loop A"}},
      {"leastEffort", {"size", twoLoops, "--least", "effort"}, {"whole-life", "laid", "mass"}},
      {"applyNowhere", {"size", twoLoops, "--apply"}, {"--apply needs --write", "never changed"}},
      {"applyToOneLine",
       {"size", twoLoops, "--line", "L-1", "--apply", "--write", "x"},
       {"--apply", "--line"}},
      {"sheetOfOneLine", {"size", twoLoops, "--line", "L-1", "--sheet"}, {"--sheet", "--line"}},
      {"goalWithoutLine", {"size", twoLoops, "--for", "velocity 1 m/s"}, {"--for", "--line"}},
      {"caseWithoutLine", {"size", twoLoops, "--case", "Base case"}, {"--case", "--line"}},
      {"twoSizesUnapplied", {"size", twoLoops, "--two-sizes"}, {"--two-sizes", "--apply"}},
      {"goalUnknown",
       {"size", twoLoops, "--line", "L-1", "--for", "happiness 3"},
       {"--for", "\"velocity 1.5 m/s\""}},
      {"goalOtherUnit",
       {"size", twoLoops, "--line", "L-1", "--for", "velocity 3 bar"},
       {"not a unit of velocity"}},
      {"goalOfNoPoint",
       {"size", twoLoops, "--line", "L-1", "--for", "Q pressure 3 bar"},
       {"--for", "\"N-3 pressure 2 bar\""}},
      {"tieOfNoRoute", {"size", twoLoops, "--tie", "2 to 2"}, {"--tie", "no line on this route"}},
      {"tieWithNobody", {"size", twoLoops, "--tie", "L-1, Q"}, {"no line \"Q\""}},
      {"keepAll",
       {"size", twoLoops, "--keep", "L-1,L-2,L-3,L-4,L-5,L-6,L-7,L-8"},
       {"no line can be sized", "fixed"}},
      {"secondsNegative", {"size", twoLoops, "--seconds", "-5"}, {"--seconds"}},
      {"seedNegative", {"size", twoLoops, "--seed", "-1"}, {"--seed"}},
      {"trialsNone", {"size", twoLoops, "--trials", "0"}, {"--trials", "1 to 1000000"}},
      // Balancing.
      {"balanceNothing", {"balance", millpond}, {"no design flows", "--flow"}},
      {"balanceALine", {"balance", larch, "--flow", "L-1 5 L/s"}, {"L-1 is not a control valve"}},
      {"balanceTwice",
       {"balance", larch, "--flow", "V-1 1 L/s", "--flow", "V-1 2 L/s"},
       {"V-1 has a design flow already"}},
      {"balanceWhom", {"balance", larch, "--flow", "5 L/s"}, {"begin with a control valve"}},
      {"balanceNowhere", {"balance", larch, "--write", nowhere + "b"}, {nowhere, "could not be written"}},
  };
}

class CommandRefuses : public testing::TestWithParam<Refusal> {};

TEST_P(CommandRefuses, saysWhatIsWrong) {
  const Ran r = ran(GetParam().arguments);
  EXPECT_EQ(r.status, unusableInput) << r.out << r.err;
  for (const std::string& words : GetParam().says)
    EXPECT_NE(r.err.find(words), std::string::npos) << "\"" << words << "\" is not in: " << r.err;
  EXPECT_TRUE(r.err.ends_with('\n')) << r.err;
  // Where it says that nothing is changed, nothing is: no file lies where one was to be written.
  for (std::size_t i = 0; i + 1 < GetParam().arguments.size(); ++i)
    if (GetParam().arguments[i] == "--write")
      EXPECT_FALSE(std::filesystem::exists(GetParam().arguments[i + 1]));
}
INSTANTIATE_TEST_SUITE_P(All, CommandRefuses, testing::ValuesIn(refusals()),
                         [](const auto& row) { return row.param.name; });

// What a full disk or a closed pipe does to the output.
class FullBuffer final : public std::streambuf {
  int overflow(int) override { return traits_type::eof(); }
};

class FullOutput : public testing::TestWithParam<Words> {};

TEST_P(FullOutput, isSaid) {
  FullBuffer full;
  std::ostream out(&full);
  std::ostringstream err;
  EXPECT_EQ(run(GetParam(), out, err), unusableInput);
  EXPECT_NE(err.str().find("could not be written in full"), std::string::npos) << err.str();
}
INSTANTIATE_TEST_SUITE_P(OfEveryCommand, FullOutput,
                         testing::Values(Words{"solve", millpond}, Words{"solve", millpond, "--json"},
                                         Words{"cases", millpond}, Words{"cases", millpond, "--json"},
                                         Words{"pumps", kestrel}, Words{"pumps", kestrel, "--json"},
                                         Words{"sweep", kestrel, "--vary", speed, "--over", held},
                                         Words{"size", twoLoops, "--line", "L-1"}, Words{"balance", larch},
                                         Words{"fields"}, Words{"schema"}));

}  // namespace
}  // namespace conduit::cli
