// A whole chip on a bench, by libsimavr: lines are set and looked at, voltages given, a gyro answers on the two-wire bus,
// distance sensors answer their triggers, and what the serial line says is heard. One order a line comes in, one answer
// a line goes out:
//
//   run US            goes on for so many microseconds: "at CYCLES"
//   reset             its reset line is pulled: "ok"
//   set PIN 0|1       a line from outside: "ok"
//   volts PIN MV      a voltage on a line: "ok"
//   gyro RAW          what the gyro tells, of 16 bits: "ok"
//   colour R G B      what the colour sensor sees, each of 16 bits: "ok"
//   echo TRIGGER ECHO US   an echo so long after each trigger; 0 is none: "ok"
//   turn A B STEPS US an encoder turns by so many steps, evenly, within that time: "ok"
//   look PIN          "out|in SHARE PULSE": which way the line is, how much of the time it is high, its last pulse in us
//   free              bytes of memory that nothing has touched: "BYTES"
//   hang              the program stops getting on, as a crash would have it: "ok"
//   send HEX          bytes on the serial line, at its speed: "ok"
//   serial            what was said since it was asked last, in hexadecimal: "HEX."
//   keep FILE         writes the program's memory into a file: "ok"
//
//   bench CHIP PROGRAM.elf           a program, run from its start
//   bench CHIP MEMORY BOOT.elf      a chip with a bootloader, and a program's memory as it was kept; may not be there yet
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include <deque>
#include <string>

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_twi.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_time.h>

static const uint32_t HZ = 16000000;
static const uint8_t PAINT = 0xc5;
static avr_t *avr;
static uint32_t freeFrom;
static std::string said;

struct Line {
  uint64_t rose, pulse;
};
static Line lines[3][8];

struct Eye {
  int trigger, echo;
  uint32_t us;
};
static Eye eyes[4];
static int eyeCount;

/** "D5" as port and number; -1 where it is none. */
static int pinOf(const char *name) {
  const int port = name[0] - 'B', number = name[1] - '0';
  return port < 0 || port > 2 || number < 0 || number > 7 || name[2] ? -1 : port * 8 + number;
}

static avr_irq_t *irqOf(int pin) { return avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('B' + pin / 8), pin % 8); }
/** Holds a line from outside: without this the chip's own pull-up would have it back at the next write to its port. */
static void hold(int pin, bool high) {
  static uint8_t held[3], levels[3];
  const int port = pin / 8, bit = 1 << (pin % 8);
  held[port] |= bit;
  levels[port] = high ? levels[port] | bit : levels[port] & ~bit;
  avr_ioport_external_t outside;
  memset(&outside, 0, sizeof outside);
  outside.name = 'B' + port;
  outside.mask = held[port];
  outside.value = levels[port];
  avr_ioctl(avr, AVR_IOCTL_IOPORT_SET_EXTERNAL('B' + port), &outside);
  avr_raise_irq(irqOf(pin), high);
}

static uint8_t dataAt(int pin, int what) { return avr->data[0x23 + 3 * (pin / 8) + what] >> (pin % 8) & 1; }

static avr_cycle_count_t echoEnds(avr_t *, avr_cycle_count_t, void *param) {
  hold(static_cast<Eye *>(param)->echo, false);
  return 0;
}
static avr_cycle_count_t echoBegins(avr_t *, avr_cycle_count_t, void *param) {
  Eye *eye = static_cast<Eye *>(param);
  hold(eye->echo, true);
  avr_cycle_timer_register_usec(avr, eye->us, echoEnds, eye);
  return 0;
}

static void changed(avr_irq_t *, uint32_t value, void *param) {
  const int pin = int(reinterpret_cast<intptr_t>(param));
  Line &line = lines[pin / 8][pin % 8];
  if (value) line.rose = avr->cycle;
  else line.pulse = avr->cycle - line.rose;
  for (int i = 0; i < eyeCount; i += 1)
    if (eyes[i].trigger == pin && !value && eyes[i].us > 0) avr_cycle_timer_register_usec(avr, 300, echoBegins, &eyes[i]);
}

static void heard(avr_irq_t *, uint32_t value, void *) {
  char digits[3];
  snprintf(digits, sizeof digits, "%02x", value & 0xff);
  said += digits;
}

// ---- What is sent: a byte after another, at 115,200 baud

static const uint32_t BYTE_CYCLES = HZ / 11520;
static std::deque<uint8_t> toSend;
static bool sending;

static avr_cycle_count_t sendsNext(avr_t *, avr_cycle_count_t when, void *) {
  if (toSend.empty()) {
    sending = false;
    return 0;
  }
  avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT), toSend.front());
  toSend.pop_front();
  return when + BYTE_CYCLES;
}

static void sends(const char *hex) {
  for (; hex[0] && hex[1]; hex += 2) {
    const char digits[3] = {hex[0], hex[1], 0};
    toSend.push_back(uint8_t(strtoul(digits, nullptr, 16)));
  }
  if (sending) return;
  sending = true;
  avr_cycle_timer_register(avr, BYTE_CYCLES, sendsNext, nullptr);
}

// ---- Encoders that turn: a step after another

struct Turning {
  int a, b, at, left;
  uint32_t cycles;
};
static Turning turnings[8];
static int turningCount;

static avr_cycle_count_t turnsOn(avr_t *, avr_cycle_count_t when, void *param) {
  Turning &one = *static_cast<Turning *>(param);
  if (one.left == 0) return 0;
  const int way = one.left > 0 ? 1 : -1;
  one.left -= way;
  one.at = (one.at + way) & 3;
  // In the order 00, 01, 11, 10 it turns forward.
  hold(one.a, one.at >> 1);
  hold(one.b, (one.at >> 1) ^ (one.at & 1));
  return when + one.cycles;
}

// ---- A gyro and a colour sensor: devices of registers

static const uint8_t GYRO = 0x68 << 1, COLOUR = 0x29 << 1;
static int16_t turning;
static uint16_t light[3];
static uint8_t selected, place;
static bool placed;

static uint8_t registerAt(uint8_t at) {
  if ((selected & 0xfe) == GYRO) return at == 0x47 ? uint8_t(turning >> 8) : at == 0x48 ? uint8_t(turning) : 0;
  // Its command byte has its highest bits set; red, green and blue begin at 0x16, low byte first.
  at &= 0x1f;
  if (at < 0x16 || at > 0x1b) return 0;
  return uint8_t(light[(at - 0x16) / 2] >> (at & 1 ? 8 : 0));
}

static void answer(uint8_t how, uint8_t data) {
  avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_INPUT), avr_twi_irq_msg(how, selected, data));
}

static void busSays(avr_irq_t *, uint32_t value, void *) {
  avr_twi_msg_irq_t message;
  message.u.v = value;
  const uint8_t how = message.u.twi.msg;
  if (how & TWI_COND_STOP) selected = 0;
  if (how & TWI_COND_START) {
    const uint8_t device = message.u.twi.addr & 0xfe;
    selected = device == GYRO || device == COLOUR ? message.u.twi.addr : 0;
    placed = false;
    if (selected) answer(TWI_COND_ACK, 1);
  }
  if (!selected) return;
  if (how & TWI_COND_WRITE) {
    answer(TWI_COND_ACK, 1);
    if (!placed) place = message.u.twi.data;
    placed = true;
  }
  if (how & TWI_COND_READ) answer(TWI_COND_READ, registerAt(place++));
}

// ---- The lines as they are driven

/** How much of the time a line is high: by its timer where that drives it. */
static double shareOf(int pin) {
  const uint8_t *data = avr->data;
  const uint8_t control0 = data[0x44], control2 = data[0xb0];
  if (pin == 2 * 8 + 6 && (control0 & 0x80)) return data[0x47] / 255.0;
  if (pin == 2 * 8 + 5 && (control0 & 0x20)) return data[0x48] / 255.0;
  if (pin == 0 * 8 + 3 && (control2 & 0x80)) return data[0xb3] / 255.0;
  if (pin == 2 * 8 + 3 && (control2 & 0x20)) return data[0xb4] / 255.0;
  return dataAt(pin, 2);
}

static void outside(uint8_t cause) {
  avr_reset(avr);
  // One that crashed begins anew as well.
  avr->state = cpu_Running;
  // What reset the chip: bit 0 power, bit 1 its line.
  avr->data[0x54] = cause;
}

// ---- Time

/** Where the bootloader begins, if there is one. */
static uint32_t bootAt = UINT32_MAX;

/** Where the program stands, with all that its next instructions work with but its memory, and what comes from outside next. */
struct Moment {
  uint64_t cycle, next;
  uint32_t pc;
  uint8_t registers[32], flags[8], stack[2];
};

static Moment momentOf() {
  Moment moment;
  const avr_cycle_timer_slot_t *first = avr->cycle_timers.timer;
  moment.cycle = avr->cycle;
  moment.next = first ? first->when : UINT64_MAX;
  moment.pc = avr->pc;
  memcpy(moment.registers, avr->data, sizeof moment.registers);
  memcpy(moment.flags, avr->sreg, sizeof moment.flags);
  memcpy(moment.stack, avr->data + 0x5d, sizeof moment.stack);
  return moment;
}

static bool isSame(const Moment &a, const Moment &b) {
  return a.pc == b.pc && a.next == b.next && !memcmp(a.registers, b.registers, sizeof a.registers) &&
         !memcmp(a.flags, b.flags, sizeof a.flags) && !memcmp(a.stack, b.stack, sizeof a.stack);
}

/** What a bootloader does to look once whether a byte came, at most: instructions. */
static const uint8_t LOOKS = 16;

/**
 * A waiting bootloader looks at the same lines again and again, and writes nothing. Where all stands as a few
 * instructions ago, it goes round until something comes: the rounds until then are left out.
 */
static void goesOn(uint64_t until) {
  Moment before;
  uint8_t age = 0;
  while (avr->cycle < until) {
    const bool boots = avr->pc >= bootAt;
    // Instructions follow each other without a look at what else there is, until the time of that.
    avr->run_cycle_limit = boots ? 1 : until - avr->cycle;
    if (avr->run_cycle_count > avr->run_cycle_limit) avr->run_cycle_count = avr->run_cycle_limit;
    const int state = avr_run(avr);
    if (state == cpu_Done || state == cpu_Crashed) break;
    if (!boots) continue;
    const Moment now = momentOf();
    if (age > 0 && isSame(before, now)) {
      const uint64_t round = now.cycle - before.cycle, end = now.next < until ? now.next : until;
      if (end > now.cycle) avr->cycle += (end - now.cycle) / round * round;
      age = 0;
      continue;
    }
    if (age == 0) before = now;
    age = (age + 1) % LOOKS;
  }
}

static bool obey(char *words) {
  char *part[5] = {};
  int count = 0;
  for (char *word = strtok(words, " \n"); word && count < 5; word = strtok(nullptr, " \n")) part[count++] = word;
  if (count == 0) return false;
  const std::string order = part[0];
  if (order == "run" && count == 2) {
    goesOn(avr->cycle + strtoull(part[1], nullptr, 10) * (HZ / 1000000));
    printf("at %llu\n", static_cast<unsigned long long>(avr->cycle));
  } else if (order == "set" && count == 3 && pinOf(part[1]) >= 0) {
    hold(pinOf(part[1]), part[2][0] == '1');
    printf("ok\n");
  } else if (order == "volts" && count == 3 && part[1][0] == 'C') {
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, part[1][1] - '0'), atoi(part[2]));
    printf("ok\n");
  } else if (order == "gyro" && count == 2) {
    turning = int16_t(atoi(part[1]));
    printf("ok\n");
  } else if (order == "colour" && count == 4) {
    for (int i = 0; i < 3; i += 1) light[i] = uint16_t(atoi(part[i + 1]));
    printf("ok\n");
  } else if (order == "reset") {
    outside(2);
    printf("ok\n");
  } else if (order == "turn" && count == 5 && pinOf(part[1]) >= 0 && pinOf(part[2]) >= 0) {
    int i = 0;
    while (i < turningCount && turnings[i].a != pinOf(part[1])) i += 1;
    if (i == 8) return false;
    if (i == turningCount) turnings[turningCount++] = Turning{pinOf(part[1]), pinOf(part[2]), 0, 0, 0};
    Turning &one = turnings[i];
    one.left += atoi(part[3]);
    if (one.left != 0) {
      one.cycles = uint32_t(atoi(part[4])) * (HZ / 1000000) / uint32_t(abs(one.left));
      if (one.cycles < 200) one.cycles = 200;
      avr_cycle_timer_cancel(avr, turnsOn, &one);
      avr_cycle_timer_register(avr, one.cycles / 2, turnsOn, &one);
    }
    printf("ok\n");
  } else if (order == "send" && count == 2) {
    sends(part[1]);
    printf("ok\n");
  } else if (order == "keep" && count == 2) {
    FILE *file = fopen(part[1], "wb");
    if (!file || fwrite(avr->flash, 1, avr->flashend + 1, file) != avr->flashend + 1 || fclose(file) != 0) return false;
    printf("ok\n");
  } else if (order == "echo" && count == 4 && pinOf(part[1]) >= 0 && pinOf(part[2]) >= 0) {
    int i = 0;
    while (i < eyeCount && eyes[i].trigger != pinOf(part[1])) i += 1;
    if (i == 4) return false;
    eyes[i] = Eye{pinOf(part[1]), pinOf(part[2]), uint32_t(atoi(part[3]))};
    if (i == eyeCount) eyeCount += 1;
    printf("ok\n");
  } else if (order == "look" && count == 2 && pinOf(part[1]) >= 0) {
    const int pin = pinOf(part[1]);
    const double pulse = double(lines[pin / 8][pin % 8].pulse) * 1e6 / HZ;
    printf("%s %.4f %.1f\n", dataAt(pin, 1) ? "out" : "in", shareOf(pin), pulse);
  } else if (order == "free") {
    uint32_t at = freeFrom;
    while (at <= avr->ramend && avr->data[at] == PAINT) at += 1;
    printf("%u\n", at - freeFrom);
  } else if (order == "hang") {
    // A jump to itself, at the end of the program's memory.
    avr->flash[avr->flashend - 1] = 0xff;
    avr->flash[avr->flashend] = 0xcf;
    avr->pc = avr->flashend - 1;
    printf("ok\n");
  } else if (order == "serial") {
    printf("%s.\n", said.c_str());
    said.clear();
  } else {
    return false;
  }
  return true;
}

/** Time that a sleeping chip waits for is gone at once. */
static void sleeps(avr_t *, avr_cycle_count_t) {}

static void quiet(avr_t *, const int level, const char *format, va_list words) {
  if (level <= LOG_ERROR) vfprintf(stderr, format, words);
}

int main(int count, char **words) {
  if (count != 3 && count != 4) {
    fprintf(stderr, "bench CHIP PROGRAM.elf | bench CHIP MEMORY BOOT.elf\n");
    return 2;
  }
  avr_global_logger_set(quiet);
  elf_firmware_t firmware;
  memset(&firmware, 0, sizeof firmware);
  if (elf_read_firmware(words[count - 1], &firmware) != 0) return 2;
  avr = avr_make_mcu_by_name(words[1]);
  if (!avr) return 2;
  avr_init(avr);
  avr->sleep = sleeps;
  if (count == 4) {
    memset(avr->flash, 0xff, avr->flashend + 1);
    FILE *memory = fopen(words[2], "rb");
    if (memory) {
      if (fread(avr->flash, 1, avr->flashend + 1, memory) == 0) fprintf(stderr, "an empty memory\n");
      fclose(memory);
    }
    // A bootloader has the last 512 bytes.
    const uint32_t at = avr->flashend + 1 - 512;
    if (firmware.flashsize > 512) return 2;
    memcpy(avr->flash + at, firmware.flash, firmware.flashsize);
    avr->reset_pc = avr->pc = bootAt = at;
    avr->codeend = avr->flashend;
    outside(1);
  } else {
    avr_load_firmware(avr, &firmware);
  }
  avr->frequency = HZ;
  freeFrom = 0x100 + firmware.datasize + firmware.bsssize;
  for (uint32_t at = freeFrom; at <= avr->ramend; at += 1) avr->data[at] = PAINT;
  avr->vcc = avr->avcc = avr->aref = 5000;
  uint32_t flags = 0;
  avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
  flags &= ~uint32_t(AVR_UART_FLAG_STDIO | AVR_UART_FLAG_POLL_SLEEP);
  avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), heard, nullptr);
  avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_TWI_GETIRQ(0), TWI_IRQ_OUTPUT), busSays, nullptr);
  for (int pin = 0; pin < 24; pin += 1)
    avr_irq_register_notify(irqOf(pin), changed, reinterpret_cast<void *>(intptr_t(pin)));
  // All orders that are there are obeyed before their answers go out.
  std::string orders;
  static char piece[65536];
  for (ssize_t got; (got = read(0, piece, sizeof piece)) > 0;) {
    orders.append(piece, got);
    size_t from = 0;
    for (size_t end; (end = orders.find('\n', from)) != std::string::npos; from = end + 1) {
      std::string order = orders.substr(from, end - from);
      if (!obey(&order[0])) printf("?\n");
    }
    orders.erase(0, from);
    fflush(stdout);
  }
  return 0;
}
