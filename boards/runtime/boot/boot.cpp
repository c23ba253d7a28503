// A bootloader for the ATmega328P in the last 512 bytes of its flash: STK500 version 1 (Atmel's application note AVR061)
// at 115,200 baud. It listens for a second after the reset line was pulled, and goes on to the program otherwise.
#include <avr/boot.h>
#include <avr/io.h>
#include <avr/pgmspace.h>

static const uint8_t INSYNC = 0x14, OK = 0x10, EOP = 0x20;

/** Timer 1 stands as after a reset, but for the note that it was full once: in "go", it counts to that in 1.05 s. */
static void __attribute__((noinline)) timer(uint8_t go) {
  TCCR1B = go;
  TCNT1 = 0;
  TIFR1 = _BV(TOV1);
}

/** Goes on to the program; comes back where there is none. */
static void __attribute__((noinline)) program() {
  if (pgm_read_word(0) == 0xffff) return;
  timer(0);
  UCSR0B = 0;
  asm volatile("clr r30\n clr r31\n ijmp");
}

static void put(uint8_t byte) {
  while (!(UCSR0A & _BV(UDRE0))) {
  }
  UDR0 = byte;
}

static uint8_t __attribute__((noinline)) get() {
  timer(_BV(CS12));
  // Nothing but the lines it looks at differs from one time round to the next: an emulator may leave them out.
  while (!(UCSR0A & _BV(RXC0)))
    if (TIFR1 & _BV(TOV1)) program();
  return UDR0;
}

static void __attribute__((noinline)) skip(uint8_t count) {
  while (count--) get();
}

/** The end of a question; what else comes is noise between two. */
static void __attribute__((noinline)) agree() {
  if (get() != EOP) program();
  put(INSYNC);
}

static void write(uint16_t at, const uint8_t *page) {
  boot_page_erase(at);
  boot_spm_busy_wait();
  for (uint8_t i = 0; i < SPM_PAGESIZE; i += 2) boot_page_fill(at + i, page[i] | uint16_t(page[i + 1]) << 8);
  boot_page_write(at);
  boot_spm_busy_wait();
  boot_rww_enable();
}

int main() __attribute__((OS_main, section(".init9")));
int main() {
  asm volatile("clr __zero_reg__");
  if (!(MCUSR & _BV(EXTRF))) program();
  UCSR0A = _BV(U2X0);
  UBRR0L = 16;
  UCSR0B = _BV(RXEN0) | _BV(TXEN0);
  uint16_t at = 0;
  uint8_t page[SPM_PAGESIZE];
  for (;;) {
    const uint8_t asked = get();
    if (asked == 0x41) {  // a parameter: a number of the version, for all
      get();
      agree();
      put(3);
    } else if (asked == 0x42) {  // what chip it is
      skip(20);
      agree();
    } else if (asked == 0x45) {
      skip(5);
      agree();
    } else if (asked == 0x56) {
      skip(4);
      agree();
      put(0);
    } else if (asked == 0x55) {  // the address, in words
      at = get();
      at |= uint16_t(get()) << 8;
      at <<= 1;
      agree();
    } else if (asked == 0x64) {  // a page to write
      get();
      const uint8_t count = get();
      get();
      for (uint8_t i = 0; i < SPM_PAGESIZE; i += 1) page[i] = i < count ? get() : 0xff;
      agree();
      // Never over itself.
      if (at < FLASHEND + 1u - 512) write(at, page);
    } else if (asked == 0x74) {  // a page to read
      get();
      uint8_t count = get();
      get();
      agree();
      for (; count > 0; count -= 1) put(pgm_read_byte(at++));
    } else if (asked == 0x75) {
      agree();
      put(0x1e);
      put(0x95);
      put(0x0f);
    } else {
      agree();
      if (asked == 0x51) {  // goes on to the program
        put(OK);
        while (!(UCSR0A & _BV(UDRE0))) {
        }
        program();
      }
    }
    put(OK);
  }
}
