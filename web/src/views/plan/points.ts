/** Points more or less, as people read them. */
import { whole } from "../../app/format";

export const signedPoints = (points: number) =>
  Math.abs(points) < 0.5 ? "no points more" : `${whole(Math.abs(points))} points ${points < 0 ? "less" : "more"}`;
