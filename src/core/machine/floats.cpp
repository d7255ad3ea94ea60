#include "mobrin/core/floats.hpp"

#include <cfloat>

namespace mobrin {

bool floats_are_exact() {
  // Kept from the compiler, which would compute them itself.
  volatile double one = 1, little = DBL_EPSILON / 4, smallest = DBL_MIN, half = 0.5;
  volatile float small_float = FLT_MIN, half_float = 0.5f;
  const double up = one + little, down = -one - little;
  return up == 1 && down == -1 && one - little / 2 == 1 && smallest * half != 0 && small_float * half_float != 0;
}

}  // namespace mobrin
