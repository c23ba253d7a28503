// Motions of a program to what makes them at run time.
import type { MotionOptions } from "../control/motions.js";
import { PI } from "../math/trig.js";
import {
  arc,
  face,
  followLine,
  followWall,
  goPlaces,
  power,
  press,
  roll,
  slide,
  straight,
  turn,
  wheels,
} from "./driveSteps.js";
import type { MotionCode, OptionsCode } from "./instructions.js";
import { linkMaybe, linkNumber } from "./linkCode.js";
import type { MotionMaker, Task } from "./task.js";

export function linkMotion(motion: MotionCode): MotionMaker {
  switch (motion.is) {
    case "straight":
      return straight(linkMaybe(motion.length), motion.back, linkOptions(motion.options));
    case "slide":
      return slide(linkMaybe(motion.length), motion.side, linkOptions(motion.options));
    case "places": {
      const places = motion.places.map(({ x, y }) => ({ x: linkNumber(x), y: linkNumber(y) }));
      const order = { places, facing: linkMaybe(motion.facing), back: motion.back, lookM: linkMaybe(motion.look) };
      return goPlaces(order, linkOptions(motion.options));
    }
    case "turn":
      return turn(linkMaybe(motion.angle), motion.side, motion.about, linkOptions(motion.options), motion.byGyro);
    case "face":
      return face(linkNumber(motion.heading), linkOptions(motion.options), motion.byGyro);
    case "arc":
      return arc(
        linkMaybe(motion.angle),
        motion.side,
        linkNumber(motion.radius),
        motion.back,
        linkOptions(motion.options),
      );
    case "roll":
      return roll(linkNumber(motion.speed), linkMaybe(motion.rate), linkMaybe(motion.ramp));
    case "wheels":
      return wheels(linkNumber(motion.left), linkNumber(motion.right), linkMaybe(motion.ramp));
    case "power":
      return power(linkNumber(motion.left), linkNumber(motion.right));
    case "press":
      return press(motion.back, linkMaybe(motion.using));
    case "follow line": {
      const { gain, damp, bridge, crossings, options } = motion;
      const tails = { gain: linkMaybe(gain), damp: linkMaybe(damp), bridgeM: linkMaybe(bridge), crossings };
      return followLine(motion, tails, linkOptions(options));
    }
    case "follow wall":
      return followWall(motion, linkNumber(motion.away), linkOptions(motion.options));
  }
}

function linkOptions(options: OptionsCode): (task: Task) => MotionOptions {
  const { how, keep } = options;
  const [at, ramp, using] = [linkMaybe(options.at), linkMaybe(options.ramp), linkMaybe(options.using)];
  return (task) => {
    const { model } = task.machine.drive;
    const turns = how === "turning";
    const usual = turns ? model.turnRadS : how === "sliding" ? (model.mixing?.cruiseAsideMS ?? 0) : model.cruiseMS;
    const usualRamp = turns ? model.turnRampRadS2 : model.rampMS2;
    // Slower than a crawl would never end: a speed of nothing is taken as the least that moves.
    return {
      cruise: Math.max(turns ? PI / 180 : 0.005, at ? at(task) : usual),
      ramp: Math.max(0.01, ramp ? ramp(task) : usualRamp),
      keep,
      mostDuty: using ? Math.max(0.02, Math.min(1, Math.abs(using(task)))) : 1,
    };
  };
}
