// What stands beside the text while the edition has a fault.
import { say } from "../shared/text";

export const Faulty = () => <p className="second">{say("It has a fault; put that right first.")}</p>;
