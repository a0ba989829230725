// How well a page fits what is looked for: the generator's own weights, with what people do before how it is made.
var HOW_IT_IS_MADE = /^(decisions|ARCHITECTURE|flows|benchmarks)/ // var: the generator puts it where its own are
var Scorer = {
  score: ([page, , , , score]) => (HOW_IT_IS_MADE.test(page) ? score - 30 : score),
  objNameMatch: 11, objPartialMatch: 6, objPrio: {0: 15, 1: 5, 2: -5}, objPrioDefault: 0,
  title: 15, partialTitle: 7, term: 5, partialTerm: 2,
}
