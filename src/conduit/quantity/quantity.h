// Strong types for the quantities of the trade. A head, a bore and a height are all metres and may not mix.
//
//   VolumeFlow q = VolumeFlow::fromSi(0.020);       // m3/s
//   HeadDrop h = Head::fromSi(52.0) - Head::fromSi(49.5);
//   double raw = h.si();                            // the only way to a double
//
// Heights, heads, gauge and absolute pressures and temperatures are points: they subtract to a difference,
// they do not add. `si()` is always in SI base units: m, m3/s, Pa, kg/m3, m2/s, W, K, 1/s.
#pragma once

#include <compare>

namespace conduit {

/// What kind of number a field holds; picks its units (units.h).
enum class Measure {
  volumeFlow,        // m3/s
  gaugePressure,     // Pa above the air outside
  absolutePressure,  // Pa
  pressureDrop,      // Pa
  head,              // m above datum
  headDrop,          // m
  height,            // m above datum
  length,            // m
  bore,              // m
  roughness,         // m
  area,              // m2
  velocity,          // m/s
  viscosity,         // m2/s, kinematic
  density,           // kg/m3
  power,             // W
  temperature,       // degree Celsius (the laws of water are written in it)
  flowCoefficient,   // Kv in m3/h at 1 bar
  nozzleFactor,      // m3/s per sqrt(Pa)
  ratio,             // 1
  rotation,          // 1/s
  mass,              // kg
  duration,          // s
  number             // 1
};

template <class Kind>
class Quantity {
 public:
  using KindTag = Kind;
  static constexpr Measure measure = Kind::measure;
  constexpr Quantity() = default;
  [[nodiscard]] static constexpr Quantity fromSi(double si) { return Quantity(si); }
  [[nodiscard]] constexpr double si() const { return si_; }
  friend constexpr auto operator<=>(Quantity, Quantity) = default;

 private:
  constexpr explicit Quantity(double si) : si_(si) {}
  double si_ = 0.0;
};

// A kind that is a point names the kind of its differences; every other kind adds freely to itself.
template <class Kind>
concept PointKind = requires {
  typename Kind::Difference;
};

template <class K>
requires(!PointKind<K>) constexpr Quantity<K> operator+(Quantity<K> a, Quantity<K> b) {
  return Quantity<K>::fromSi(a.si() + b.si());
}
template <class K>
requires(!PointKind<K>) constexpr Quantity<K> operator-(Quantity<K> a, Quantity<K> b) {
  return Quantity<K>::fromSi(a.si() - b.si());
}
template <class K>
requires(!PointKind<K>) constexpr Quantity<K> operator*(double f, Quantity<K> a) {
  return Quantity<K>::fromSi(f * a.si());
}
template <PointKind K>
constexpr Quantity<typename K::Difference> operator-(Quantity<K> a, Quantity<K> b) {
  return Quantity<typename K::Difference>::fromSi(a.si() - b.si());
}
template <PointKind K>
constexpr Quantity<K> operator+(Quantity<K> a, Quantity<typename K::Difference> d) {
  return Quantity<K>::fromSi(a.si() + d.si());
}

struct VolumeFlowKind {
  static constexpr Measure measure = Measure::volumeFlow;
};
struct PressureDropKind {
  static constexpr Measure measure = Measure::pressureDrop;
};
struct HeadDropKind {
  static constexpr Measure measure = Measure::headDrop;
};
struct LengthKind {
  static constexpr Measure measure = Measure::length;
};
struct BoreKind {
  static constexpr Measure measure = Measure::bore;
};
struct RoughnessKind {
  static constexpr Measure measure = Measure::roughness;
};
struct AreaKind {
  static constexpr Measure measure = Measure::area;
};
struct VelocityKind {
  static constexpr Measure measure = Measure::velocity;
};
struct ViscosityKind {
  static constexpr Measure measure = Measure::viscosity;
};
struct DensityKind {
  static constexpr Measure measure = Measure::density;
};
struct PowerKind {
  static constexpr Measure measure = Measure::power;
};
struct FlowCoefficientKind {
  static constexpr Measure measure = Measure::flowCoefficient;
};
struct NozzleFactorKind {
  static constexpr Measure measure = Measure::nozzleFactor;
};
struct RatioKind {
  static constexpr Measure measure = Measure::ratio;
};
struct RotationKind {
  static constexpr Measure measure = Measure::rotation;
};
struct NumberKind {
  static constexpr Measure measure = Measure::number;
};
struct GaugePressureKind {
  static constexpr Measure measure = Measure::gaugePressure;
  using Difference = PressureDropKind;
};
struct AbsolutePressureKind {
  static constexpr Measure measure = Measure::absolutePressure;
  using Difference = PressureDropKind;
};
struct HeadKind {
  static constexpr Measure measure = Measure::head;
  using Difference = HeadDropKind;
};
struct HeightKind {
  static constexpr Measure measure = Measure::height;
  using Difference = HeadDropKind;
};
struct TemperatureDifferenceKind {
  static constexpr Measure measure = Measure::number;
};
struct TemperatureKind {
  static constexpr Measure measure = Measure::temperature;
  using Difference = TemperatureDifferenceKind;
};

using VolumeFlow = Quantity<VolumeFlowKind>;
using PressureDrop = Quantity<PressureDropKind>;
using HeadDrop = Quantity<HeadDropKind>;
using Length = Quantity<LengthKind>;
using Bore = Quantity<BoreKind>;
using Roughness = Quantity<RoughnessKind>;
using Area = Quantity<AreaKind>;
using Velocity = Quantity<VelocityKind>;
using Viscosity = Quantity<ViscosityKind>;
using Density = Quantity<DensityKind>;
using Power = Quantity<PowerKind>;
using FlowCoefficient = Quantity<FlowCoefficientKind>;
using NozzleFactor = Quantity<NozzleFactorKind>;
using Ratio = Quantity<RatioKind>;
using Rotation = Quantity<RotationKind>;
using Number = Quantity<NumberKind>;
using GaugePressure = Quantity<GaugePressureKind>;
using AbsolutePressure = Quantity<AbsolutePressureKind>;
using Head = Quantity<HeadKind>;
using Height = Quantity<HeightKind>;
using Temperature = Quantity<TemperatureKind>;  // si() is in degree Celsius, see Measure::temperature

/// Volume flow through an area. The few products the trade uses are declared by hand.
constexpr VolumeFlow operator*(Area a, Velocity v) { return VolumeFlow::fromSi(a.si() * v.si()); }
constexpr Velocity operator/(VolumeFlow q, Area a) { return Velocity::fromSi(q.si() / a.si()); }

inline constexpr double standardGravity_ms2 = 9.80665;  // ISO 80000-3
inline constexpr double pi = 3.14159265358979323846;

}  // namespace conduit
