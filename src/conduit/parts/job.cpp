#include "parts/job.h"

#include <fmt/format.h>

#include <algorithm>

#include "medium/family.h"
#include "parts/name_pattern.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::job {
namespace {

constexpr std::string_view drawings[] = {"to scale", "not to scale"};
constexpr std::string_view mains[] = {"50 Hz", "60 Hz"};
constexpr std::string_view frictionLaws[] = {"Darcy-Weisbach", "Hazen-Williams", "Manning"};
// Whether what flows asks for this field.
bool asks(const Values& v, std::string_view field) {
  const auto* word = v.get<std::string>("liquid");
  const auto reads = familyOf(word ? *word : std::string()).reads;
  return std::find(reads.begin(), reads.end(), field) != reads.end();
}
bool asksStock(const Values& v) { return asks(v, "liquid of the stock"); }
bool asksTemperature(const Values& v) { return asks(v, "temperature"); }
bool asksShare(const Values& v) { return asks(v, "share"); }
bool asksProperties(const Values& v) { return asks(v, "properties"); }
bool asksDensity(const Values& v) { return asks(v, "density"); }
bool withSolids(const Values& v) { return v.find("solids share") != nullptr; }
bool notWater(const Values& v) {
  const auto* word = v.get<std::string>("liquid");
  return word && &familyOf(*word) != families().front();
}
constexpr Column properties[] = {
    {"temperature", Measure::temperature, true, -200, 500},
    {"density", Measure::density, true, 1, 25000},
    {"viscosity", Measure::viscosity, true, 1e-8, 10},
    {"vapour pressure", Measure::absolutePressure, false, 0, 1e8},
};
bool hazenWilliams(const Values& v) {
  const auto* word = v.get<std::string>("friction law");
  return word && *word == "Hazen-Williams";
}

const auto fields = joined(
    std::to_array<Field>({
        ofDrawing(text("title", "title of the calculation")),
        ofDrawing(text("number", "job number")),
        ofDrawing(text("client", "client")),
        ofDrawing(text("author", "author")),
        ofDrawing(text("revision", "revision mark")),
        ofDrawing(text("date", "issue date")),
        ofDrawing(text("remarks", "remarks for every sheet")),
        ofDrawing(text("units", "unit set for display")),
        Field{.key = "own units",
              .kind = FieldKind::text,
              .help = "units for single quantities, overriding the set: flow gpm; pressure kPa",
              .fault = ownUnitsFault,
              .ofDrawing = true},
        ofDrawing(choice(
            "drawing", drawings,
            "to scale: lengths that were drawn follow the drawing; not to scale: lengths are entered")),
        ofDrawing(text("size of new lines", "catalogue size or bore; default: 4 in sch 40, assumed")),
        ofDrawing(text("wall of new lines", "roughness, C or n, by friction law; default: clean pipe")),
        ofDrawing(nameOf("service of new lines", "service", "service whose limits apply to new lines")),
        ofDrawing(field(Key<Height>{"height of new points"}, -12000, 9000,
                        "height of new points; default: 0 m, assumed")),
        Field{.key = "name patterns",
              .kind = FieldKind::text,
              .help = "first name of each kind: pipe W-001; pump PU-1",
              .fault = patternFault,
              .ofDrawing = true},
        choice("liquid", familyWords(), "liquid in the network"),
        onlyWhen(need(text("liquid of the stock", "name in the catalogue of liquids")), asksStock),
        onlyWhen(byDefault(field(Key<Temperature>{"temperature"}, -200, 500,
                                 "liquid temperature; water data: 0 to 150 °C"),
                           10.0),
                 asksTemperature),
        onlyWhen(field(Key<Temperature>{"highest temperature"}, -200, 500,
                       "of the liquid in service; suctions are judged at it in a case of their own"),
                 asksTemperature),
        onlyWhen(need(field(Key<Ratio>{"share"}, 0, 1, "concentration of salt or glycol, by mass")),
                 asksShare),
        onlyWhen(
            Field{
                .key = "properties",
                .kind = FieldKind::table,
                .needed = true,
                .help =
                    "properties at two or more temperatures; density, ln ν and ln p_v interpolated linearly",
                .columns = properties},
            asksProperties),
        onlyWhen(need(field(Key<Density>{"density"}, 1, 25000, "density of the user-defined liquid")),
                 asksDensity),
        onlyWhen(need(field(Key<Viscosity>{"viscosity"}, 1e-8, 10,
                            "kinematic viscosity of the user-defined liquid")),
                 asksDensity),
        onlyWhen(field(Key<AbsolutePressure>{"vapour pressure"}, 0, 1e8,
                       "absolute vapour pressure of the user-defined liquid; without it NPSH, choking and "
                       "boiling are not judged"),
                 asksDensity),
        onlyWhen(field(Key<AbsolutePressure>{"critical pressure"}, 1e5, 1e9,
                       "absolute; used for valve choking; default: taken as very high"),
                 asksDensity),
        onlyWhen(field(Key<Number>{"molar mass"}, 1, 10000,
                       "kg/kmol, of a liquid other than water; needed for molar flows"),
                 notWater),
        field(Key<Ratio>{"solids share"}, 0, 0.6,
              "solids by volume; raises density and viscosity (Thomas 1965)"),
        onlyWhen(need(field(Key<Density>{"solids density"}, 100, 25000, "density of the solid particles")),
                 withSolids),
        byDefault(field(Key<Height>{"altitude"}, -500, 11000, "site altitude; sets atmospheric pressure"),
                  0.0),
        field(
            Key<Height>{"altitude holds at"}, -12000, 9000,
            "model height at that altitude; default: the lowest point. Atmospheric pressure falls above it"),
        choice("friction law", frictionLaws,
               "Darcy-Weisbach with Colebrook-White, Hazen-Williams, or Manning"),
        onlyWhen(byDefault(field(Key<Number>{"Hazen-Williams coefficient"}, 10, 11,
                                 "c in h = c L Q^n / (C^n D^m), SI"),
                           10.67),
                 hazenWilliams),
        onlyWhen(
            byDefault(field(Key<Number>{"Hazen-Williams flow exponent"}, 1.8, 2, "n in that formula"), 1.852),
            hazenWilliams),
        onlyWhen(byDefault(field(Key<Number>{"Hazen-Williams bore exponent"}, 4.8, 5, "m in that formula"),
                           4.8704),
                 hazenWilliams),
        choice("motor mains", mains, "mains frequency of the motors"),
        waivedField("checks that do not apply to the job, each with its reason"),
    }),
    sharedLimitFields(true));

// Williams and Hazen measured cold water; their law knows no viscosity.
void check(const Reading& r, Checks& checks) {
  if (!r.setting->hazenWilliams) return;
  const bool water = !notWater(*r.values);
  if (water && r.setting->temperature_c) {
    Check& c = checks.hold(CheckId::frictionLaw, *r.setting->temperature_c, {5.0, LimitFrom::law},
                           {25.0, LimitFrom::law}, Severity::near);
    if (checks.told(c))
      c.what = fmt::format("Hazen-Williams holds for water near 15 °C, 5 to 25; the water is at {} °C",
                           digits(*r.setting->temperature_c, 3));
    return;
  }
  Check& c = checks.say(CheckId::frictionLaw, Severity::near);
  if (checks.told(c))
    c.what = fmt::format("Hazen-Williams holds for water near 15 °C; the liquid is {}", r.setting->liquid);
}

}  // namespace

const Part part{
    .key = "job",
    .plural = "Job",
    .ends = Ends::none,
    .fields = fields,
    .check = check,
};

}  // namespace conduit::job
