#include "parts/job.h"

#include <algorithm>

#include "medium/family.h"
#include "parts/name_pattern.h"

namespace conduit::job {
namespace {

constexpr std::string_view drawings[] = {"to scale", "not to scale"};
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

const Field fields[] = {
    ofDrawing(text("title", "subject of the calculation")),
    ofDrawing(text("number", "the job's number")),
    ofDrawing(text("client", "for whom")),
    ofDrawing(text("author", "by whom")),
    ofDrawing(text("revision", "mark of the issue")),
    ofDrawing(text("date", "of the issue")),
    ofDrawing(text("remarks", "anything that belongs on every sheet")),
    ofDrawing(text("units", "the set of units the numbers are shown in")),
    Field{.key = "own units",
          .kind = FieldKind::text,
          .help = "for single quantities, before those of the set: flow gpm; pressure kPa",
          .fault = ownUnitsFault,
          .ofDrawing = true},
    ofDrawing(
        choice("drawing", drawings,
               "to scale: lengths that were drawn follow the drawing; not to scale: lengths are entered")),
    ofDrawing(
        text("size of new lines", "a size of the catalogue or a bore; 4 in sch 40, assumed, if not given")),
    ofDrawing(
        text("wall of new lines", "roughness, C or n by the friction law; that of clean pipe if not given")),
    ofDrawing(nameOf("service of new lines", "service", "whose limits hold for them")),
    ofDrawing(field(Key<Height>{"height of new points"}, -12000, 9000, "0 m, assumed, if not given")),
    Field{.key = "name patterns",
          .kind = FieldKind::text,
          .help = "the first name of a kind, each: pipe W-001; pump PU-1",
          .fault = patternFault,
          .ofDrawing = true},
    choice("liquid", familyWords(), "what flows"),
    onlyWhen(need(text("liquid of the stock", "its name in the list of liquids")), asksStock),
    onlyWhen(byDefault(field(Key<Temperature>{"temperature"}, -200, 500,
                             "of the liquid; water is known from 0 to 150 °C"),
                       10.0),
             asksTemperature),
    onlyWhen(need(field(Key<Ratio>{"share"}, 0, 1, "of the salt or glycol by mass")), asksShare),
    onlyWhen(Field{.key = "properties",
                   .kind = FieldKind::table,
                   .needed = true,
                   .help = "of the own liquid at two temperatures or more; density straight between them, ln "
                           "ν and ln p_v too",
                   .columns = properties},
             asksProperties),
    onlyWhen(need(field(Key<Density>{"density"}, 1, 25000, "of the own liquid")), asksDensity),
    onlyWhen(need(field(Key<Viscosity>{"viscosity"}, 1e-8, 10, "kinematic, of the own liquid")), asksDensity),
    onlyWhen(byDefault(field(Key<AbsolutePressure>{"vapour pressure"}, 0, 1e8, "absolute, of the own liquid"),
                       0.0),
             asksDensity),
    onlyWhen(field(Key<AbsolutePressure>{"critical pressure"}, 1e5, 1e9,
                   "absolute; choking of valves needs it, else it is taken as far above"),
             asksDensity),
    onlyWhen(field(Key<Number>{"molar mass"}, 1, 10000,
                   "of a liquid other than water, kg/kmol; flows in moles need it"),
             notWater),
    field(Key<Ratio>{"solids share"}, 0, 0.6, "of the volume; raises density and viscosity (Thomas 1965)"),
    onlyWhen(need(field(Key<Density>{"solids density"}, 100, 25000, "of the grains")), withSolids),
    byDefault(field(Key<Height>{"altitude"}, -500, 11000,
                    "of the site above the sea; sets the pressure of the air"),
              0.0),
    field(Key<Height>{"altitude holds at"}, -12000, 9000,
          "the height of the drawing that has this altitude, its lowest point's if not given; the air is "
          "thinner above it"),
    choice("friction law", frictionLaws, "Darcy-Weisbach with Colebrook-White, Hazen-Williams, or Manning"),
    onlyWhen(byDefault(
                 field(Key<Number>{"Hazen-Williams coefficient"}, 10, 11, "of h = c L Q^n / (C^n D^m) in SI"),
                 10.67),
             hazenWilliams),
    onlyWhen(byDefault(field(Key<Number>{"Hazen-Williams flow exponent"}, 1.8, 2, "n of that law"), 1.852),
             hazenWilliams),
    onlyWhen(byDefault(field(Key<Number>{"Hazen-Williams bore exponent"}, 4.8, 5, "m of that law"), 4.8704),
             hazenWilliams),
    byDefault(field(Key<Velocity>{"velocity at most"}, 0.01, 100, "in any pipe; wear and noise"), 3.0),
    inSight(field(Key<Velocity>{"velocity at least"}, 0, 100, "in any pipe that flows; settling")),
    field(Key<Ratio>{"gradient at most"}, 0, 100, "head lost along any pipe"),
    inSight(field(Key<GaugePressure>{"pressure at least"}, -101325, 1e8, "at any point")),
    field(Key<GaugePressure>{"pressure at most"}, -101325, 1e9, "at any point"),
    field(Key<AbsolutePressure>{"absolute pressure at least"}, 0, 1e8,
          "at any point; air comes out of the liquid below it"),
    byDefault(field(Key<HeadDrop>{"NPSH margin at least"}, 0, 100,
                    "NPSH available less NPSH required, at any running pump"),
              0.5),
};

}  // namespace

const Part part{
    .key = "job",
    .plural = "Job",
    .ends = Ends::none,
    .fields = fields,
};

}  // namespace conduit::job
