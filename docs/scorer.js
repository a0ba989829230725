// How well a page fits what is looked for: the generator's own weights, with what people do before how it is made.
const HOW_IT_IS_MADE = /^(decisions|ARCHITECTURE|flows|benchmarks)/
const Scorer = {
  score: ([page, , , , score]) => (HOW_IT_IS_MADE.test(page) ? score - 30 : score),
  objNameMatch: 11, objPartialMatch: 6, objPrio: {0: 15, 1: 5, 2: -5}, objPrioDefault: 0,
  title: 15, partialTitle: 7, term: 5, partialTerm: 2,
}
