// Runs an exported program on a course of readings: course FILE. For each tick it writes which rules had control, what was told the devices, and what was said.
// With NARROW its numbers have 32 bits, as on a chip with 8.
#include <Arduino.h>

typedef double Wide;

#ifdef NARROW
#define double float
#endif

#include "program.h"

void said(Letters kind, Letters about, const char* text) { printf("\x1e%s %s %s", reinterpret_cast<const char*>(kind), reinterpret_cast<const char*>(about), text); }

int main(int, char** given) {
  FILE* course = fopen(given[1], "rb");
  if (course == nullptr) return 2;
  begin_program();
  now.tell = said;
  Wide head[2];
  while (fread(head, sizeof(Wide), 1, course) == 1) {
    now.still = head[0] != 0;
    for (Device* device : devices) {
      Wide raw[64];
      if (fread(head, sizeof(Wide), 2, course) != 2 || fread(raw, sizeof(Wide), device->reads, course) != device->reads) return 3;
      device->looks = long(head[0]);
      device->began = long(head[1]);
      Number read[64];
      for (byte i = 0; i < device->reads; i++) read[i] = raw[i];
      device->take(read);
    }
    run_tick();
    const bool over = now.finished || is_over();
    if (over) printf("\x1eover");
    printf("\x1f");
    for (Lane* lane : lanes) {
      int mode = -1;
      for (int i = 0; lane->mode != nullptr && mode == -1; i++) {
        if (lane->modes[i] == lane->mode) mode = i;
      }
      printf("%s%d %d %d", lane == lanes[0] ? "" : "; ", lane->phase, mode, lane->control == nullptr ? -1 : lane->control->number);
    }
    printf("\x1f");
    for (Device* device : devices) {
      for (byte i = 0; i < device->tells; i++) printf("%.17g ", Wide(device->told[i]));
    }
    printf("\x1d");
    if (over) break;
  }
  return 0;
}
