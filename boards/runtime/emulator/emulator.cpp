// An 8-bit AVR by libsimavr, in lock-step with whoever asks: the chip runs a brain with the host board, and what that
// writes into two registers goes out here as the host board's bytes. For each tick it tells how long the chip worked on
// it and how much of its memory nothing has touched yet.
//
//   emulator CHIP PROGRAM.elf
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_io.h>

/** Places of the general purpose registers, as they stand in the data of the chips we know. */
static const avr_io_addr_t LETTERS = 0x3e, NUMBERS = 0x4a, WORKS = 0x4b;
static const uint8_t PAINT = 0xc5;
static const uint32_t RAM_BEGIN = 0x100;

static uint32_t freeFrom;
static uint64_t since, worked;

/** What the stack never reached, bytes. */
static uint32_t untouched(avr_t *avr) {
  uint32_t at = freeFrom;
  while (at <= avr->ramend && avr->data[at] == PAINT) at += 1;
  return at - freeFrom;
}

static void say(double value) { fwrite(&value, sizeof value, 1, stdout); }

static void letter(avr_t *avr, avr_io_addr_t, uint8_t value, void *) {
  // Orders end a tick.
  if (value == 'C') {
    fputc('M', stdout);
    say(double(worked));
    say(double(untouched(avr)));
  }
  fputc(value, stdout);
}

static void numberOut(avr_t *, avr_io_addr_t, uint8_t value, void *) {
  static uint8_t bytes[4], have;
  bytes[have] = value;
  have += 1;
  if (have < 4) return;
  float number;
  memcpy(&number, bytes, sizeof number);
  say(number);
  have = 0;
}

static uint8_t numberIn(avr_t *, avr_io_addr_t, void *) {
  static uint8_t bytes[4], given = 4;
  if (given == 4) {
    fflush(stdout);
    double number;
    if (fread(&number, sizeof number, 1, stdin) != 1) exit(0);
    const float small = number;
    memcpy(bytes, &small, sizeof small);
    given = 0;
  }
  given += 1;
  return bytes[given - 1];
}

static void works(avr_t *avr, avr_io_addr_t, uint8_t value, void *) {
  if (value == 2) exit(0);
  if (value) since = avr->cycle;
  else worked = avr->cycle - since;
}

static void quiet(avr_t *, const int level, const char *format, va_list words) {
  if (level <= LOG_ERROR) vfprintf(stderr, format, words);
}

int main(int count, char **words) {
  if (count != 3) {
    fprintf(stderr, "emulator CHIP PROGRAM.elf\n");
    return 2;
  }
  avr_global_logger_set(quiet);
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(words[2], &firmware) != 0) return 2;
  avr_t *avr = avr_make_mcu_by_name(words[1]);
  if (!avr) return 2;
  avr_init(avr);
  avr_load_firmware(avr, &firmware);
  avr->frequency = 16000000;
  freeFrom = RAM_BEGIN + firmware.datasize + firmware.bsssize;
  for (uint32_t at = freeFrom; at <= avr->ramend; at += 1) avr->data[at] = PAINT;
  avr_register_io_write(avr, LETTERS, letter, nullptr);
  avr_register_io_write(avr, NUMBERS, numberOut, nullptr);
  avr_register_io_read(avr, NUMBERS, numberIn, nullptr);
  avr_register_io_write(avr, WORKS, works, nullptr);
  // Instructions follow each other without a look at what else there is, until the time of that.
  avr->run_cycle_limit = UINT32_MAX;
  for (;;) {
    const int state = avr_run(avr);
    if (state == cpu_Done || state == cpu_Crashed) return state == cpu_Done ? 0 : 4;
  }
}
