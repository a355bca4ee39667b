// A project as the page shows it: what the server said last, and on top of it what hands have done since and it does
// not hold yet. An answer that was under way while somebody went on working takes none of that off the page.
import type { Project } from '@variscen/contract';

type Step = (p: Project) => Project;
interface Taken {
  readonly step: Step;
  /** The gesture that it is part of. */
  readonly by: object | undefined;
}

export class OnPage {
  /** Known while there are steps. */
  private said: Project | undefined;
  private steps: Taken[] = [];
  /** How many steps there have been that are none any more. */
  private gone = 0;

  /** After what has been done so far, for `answered`. */
  now(): number {
    return this.gone + this.steps.length;
  }
  /** Does one more thing to what is shown. @param by the gesture that it is part of */
  put(shown: Project, step: Step, by?: object): Project {
    if (this.steps.length === 0) this.said = shown;
    this.steps.push({ step, by });
    return step(shown);
  }
  /** The server's answer to what was asked then: it holds what was done before that, and nothing of what was since. */
  answered(project: Project, then: number): Project {
    const old = Math.max(0, then - this.gone);
    this.gone += this.steps.splice(0, old).length;
    this.said = project;
    return this.shown(project);
  }
  /** What the server said of a part of it. */
  learnt(shown: Project, step: Step): Project {
    if (this.said) this.said = step(this.said);
    return step(shown);
  }
  /** Undoes what a gesture has done. */
  without(shown: Project, by: object): Project {
    this.steps = this.steps.filter((taken) => taken.by !== by);
    return this.shown(this.said ?? shown);
  }
  /** The server has, or has refused, everything. */
  settled(): void {
    this.gone += this.steps.splice(0).length;
    this.said = undefined;
  }

  private shown(project: Project): Project {
    return this.steps.reduce((p, { step }) => step(p), project);
  }
}
