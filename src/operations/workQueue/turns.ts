/** Work about the same subject, one after the other; work about others goes on beside it. In one process. */
export type InTurn = <Result>(subject: string, work: () => Promise<Result>) => Promise<Result>;

export function createTurns(): InTurn {
  const last = new Map<string, Promise<unknown>>();
  return (subject, work) => {
    const turn = (last.get(subject) ?? Promise.resolve()).then(work);
    const over = turn
      .catch(() => undefined)
      .then(() => {
        if (last.get(subject) === over) last.delete(subject);
      });
    last.set(subject, over);
    return turn;
  };
}
