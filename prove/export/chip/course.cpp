// Runs an exported program on a chip, on a course of readings that what simulates the chip puts into its memory. A number written to GPIOR0 says where it is:
// 1 it takes the readings of a tick, 2 the tick begins, 3 it has ended, 4 what it gave stands ready. Letters of what it tells go to GPIOR1.
#include "program.h"

extern "C" {
volatile float course_in[COURSE_IN];
volatile float course_out[COURSE_OUT + 1];
volatile int16_t course_control[LANES * 3];
volatile uint8_t course_over;
}

void say_letter(char letter) { GPIOR1 = letter; }

void said(Letters kind, Letters about, const char* text) {
  say_letter('\x1e');
  for (const char* at = reinterpret_cast<const char*>(kind); pgm_read_byte(at) != 0; at++) say_letter(pgm_read_byte(at));
  say_letter(' ');
  for (const char* at = reinterpret_cast<const char*>(about); pgm_read_byte(at) != 0; at++) say_letter(pgm_read_byte(at));
  say_letter(' ');
  for (; *text != 0; text++) say_letter(*text);
}

int main() {
  begin_program();
  now.tell = said;
  for (;;) {
    GPIOR0 = 1;
    byte at = 0;
    now.still = course_in[at++] != 0;
    for (Device* device : devices) {
      device->looks = long(course_in[at++]);
      device->began = long(course_in[at++]);
      Number raw[COURSE_IN];
      for (byte i = 0; i < device->reads; i++) raw[i] = course_in[at++];
      device->take(raw);
    }
    GPIOR0 = 2;
    run_tick();
    GPIOR0 = 3;
    byte out = 0;
    for (Device* device : devices) {
      for (byte i = 0; i < device->tells; i++) course_out[out++] = device->told[i];
    }
    byte lane_at = 0;
    for (Lane* lane : lanes) {
      int mode = -1;
      for (int i = 0; lane->mode != nullptr && mode == -1; i++) {
        if (lane->modes[i] == lane->mode) mode = i;
      }
      course_control[lane_at++] = lane->phase;
      course_control[lane_at++] = mode;
      course_control[lane_at++] = lane->control == nullptr ? -1 : lane->control->number;
    }
    course_over = now.finished || is_over();
    GPIOR0 = 4;
  }
}
