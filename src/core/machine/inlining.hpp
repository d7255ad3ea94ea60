// For the few functions of which a step is made: a call would cost more than what they do.
#pragma once

#if defined(__GNUC__)
#define MOBRIN_INLINE inline __attribute__((always_inline))
#define MOBRIN_APART __attribute__((noinline))
#else
#define MOBRIN_INLINE inline
#define MOBRIN_APART
#endif
