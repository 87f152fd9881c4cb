// What may be said of a pump, and how it is described.
#pragma once

#include "parts/part.h"

namespace conduit::pump {

inline constexpr Key<Rotation> speed{"speed"}, ratedSpeed{"rated speed"};
inline constexpr Key<VolumeFlow> dutyFlow{"duty flow"};
inline constexpr Key<Height> datum{"datum"};
inline constexpr Key<Power> driver{"driver"};
inline constexpr std::string_view ownMarginKey = limitRow(LimitId::npshMarginLeast).key;
inline constexpr std::string_view curveKey = "curve", otherCurvesKey = "other curves",
                                  constructionKey = "construction", motorClassKey = "motor class",
                                  motorLoadsKey = "motor at part load", displacementKey = "displacement",
                                  marginBySizeKey = "driver margin by size";
/// Ways to describe it, of the field `wayKey`.
inline constexpr std::string_view ways[] = {"curve", "duty point", "given flow", "given head", "given power"};
inline constexpr std::string_view wayKey = "described by", arrangementKey = "arrangement", keepsKey = "keeps",
                                  keptAtKey = "kept at";
inline constexpr std::string_view arrangements[] = {"parallel", "series"};
/// How it is built; the first says nothing.
inline constexpr std::string_view constructions[] = {"not said",       "end suction", "multistage",
                                                     "double suction", "submersible", "sewage"};
inline constexpr std::string_view motorClasses[] = {"not said", "IE1", "IE2", "IE3", "IE4"};
inline constexpr std::string_view kept[] = {"its speed", "a pressure", "a flow"};
inline constexpr Key<HeadDrop> dutyHead{"duty head"}, headMost{"head at most"};
inline constexpr Key<Ratio> dutyEfficiency{"duty efficiency"}, headFactor{"head factor"},
    efficiencyFactor{"efficiency factor"};
inline constexpr Key<Power> liquidPower{"power to the liquid"};
inline constexpr Key<Number> unitCount{"units"}, stageCount{"stages"}, trimExponent{"trim exponent"};
inline constexpr Key<Bore> impeller{"impeller"}, ratedImpeller{"rated impeller"};
inline constexpr Key<GaugePressure> keptPressure{"kept pressure"};
inline constexpr Key<VolumeFlow> keptFlow{"kept flow"};
inline constexpr Key<Bore> solidsPassage{"solids passage"};
inline constexpr Key<Ratio> ofBestLeast{"flow of best at least"}, ofBestMost{"flow of best at most"},
    allowedLeast{"allowable flow at least"}, allowedMost{"allowable flow at most"},
    motorFull{"motor efficiency"}, driveShare{"drive efficiency"};

extern const std::span<const Field> fields;
[[nodiscard]] const Field* fieldOf(std::string_view key);

/// The word given for a choice or a name, else `fallback`.
[[nodiscard]] std::string word(const Values& v, std::string_view key, std::string_view fallback);
[[nodiscard]] bool described(const Values& v, std::size_t way);  // by ways[way]
[[nodiscard]] bool curveFound(const Values& v);  // it passes its duty, whatever head that takes
[[nodiscard]] bool byPoint(const Values& v);
[[nodiscard]] bool byPower(const Values& v);
/// Its head follows a curve, whether given by points or by the duty.
[[nodiscard]] bool hasCurve(const Values& v);
[[nodiscard]] bool keepsPressure(const Values& v);
[[nodiscard]] bool keepsFlow(const Values& v);
[[nodiscard]] bool keepsSomething(const Values& v);

/// Units that share the flow, or the head.
[[nodiscard]] double parallelUnits(const Values& v, const Medium& m);
[[nodiscard]] double seriesUnits(const Values& v, const Medium& m);

}  // namespace conduit::pump
