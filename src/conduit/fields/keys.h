// The keys of fields and found numbers of which more than one room speaks, so that a misspelt one does not
// compile. What a kind alone knows has its key beside its field table.
#pragma once

namespace conduit::key {

inline constexpr char bore[] = "bore";
inline constexpr char hazenC[] = "C";
inline constexpr char changeOfBore[] = "change of bore";
inline constexpr char connections[] = "connections";
inline constexpr char criticalPressure[] = "critical pressure";
inline constexpr char density[] = "density";
inline constexpr char driver[] = "driver";
inline constexpr char file[] = "file";
inline constexpr char flow[] = "flow";
inline constexpr char flowIn[] = "flow in";
inline constexpr char flowOut[] = "flow out";
inline constexpr char frictionLaw[] = "friction law";
inline constexpr char height[] = "height";
inline constexpr char highestTemperature[] = "highest temperature";
inline constexpr char inflow[] = "inflow";
inline constexpr char lossK[] = "K";
inline constexpr char kv[] = "Kv";
inline constexpr char length[] = "length";
inline constexpr char level[] = "level";
inline constexpr char liquid[] = "liquid";
inline constexpr char molarMass[] = "molar mass";
inline constexpr char manningN[] = "n";
inline constexpr char note[] = "note";
inline constexpr char isOpen[] = "open";
inline constexpr char opening[] = "opening";
inline constexpr char outflow[] = "outflow";
inline constexpr char pressure[] = "pressure";
inline constexpr char ratedSpeed[] = "rated speed";
inline constexpr char properties[] = "properties";
inline constexpr char rating[] = "rating";
inline constexpr char roughness[] = "roughness";
inline constexpr char running[] = "running";
inline constexpr char section[] = "section";
inline constexpr char service[] = "service";
inline constexpr char setPoint[] = "set point";
inline constexpr char size[] = "size";
inline constexpr char solidsDensity[] = "solids density";
inline constexpr char speed[] = "speed";
inline constexpr char stockItem[] = "stock item";
inline constexpr char surfacePressure[] = "surface pressure";
inline constexpr char takeOff[] = "take-off";
inline constexpr char teeBranch[] = "tee branch";
inline constexpr char temperature[] = "temperature";
inline constexpr char text[] = "text";
inline constexpr char title[] = "title";
inline constexpr char units[] = "units";
inline constexpr char vapourPressure[] = "vapour pressure";
inline constexpr char viscosity[] = "viscosity";
inline constexpr char width[] = "width";

}  // namespace conduit::key
