// Every page of the demo shop, with the states that look different.
export const pages = [
  '/', '/?show=all', '/?q=nothing-like-it', '/jobs/new', '/jobs/import', '/shop', '/shelf', '/shelf/1', '/orders', '/orders?all=true', '/jobs/1003/part?of=Supply', '/jobs/1003/capture', '/jobs/1008?at=4', '/jobs/1009?visit=true', '/jobs/1003?climb=whole', '/who', '/keys', '/find?q=board&job=1003', '/help', '/jobs/new?counter=true', '/jobs/1008/log/5/as?seen=4', '/jobs/1003/log?at=3', '/nowhere',
  '/customers', '/customers/9', '/catalogue', '/?show=waiting', '/jobs/1009/card', '/jobs/1001/card', '/jobs/1010/once-over', '/jobs/1010/reproduce', '/jobs/1010/ticket', '/jobs/1010/correct', '/jobs/1008/memory', '/jobs/1001/memory', '/jobs/1007/memory', '/jobs/1003/proof', '/jobs/1010/proof', '/jobs/1003/heat', '/jobs/1003/hand-over', '/jobs/1001/hand-over', '/jobs/1003/worth', '/jobs/1010/worth', '/jobs/1008/estimate', '/jobs/1010/estimate', '/jobs/1003/invoice', '/jobs/1001/invoice', '/jobs/1002/papers', '/jobs/1002/customer?cost=true', '/jobs/1002/return/supply', '/catalogue/support', '/jobs/1008/how/flash', '/jobs/1008/how/swap-board',
  '/jobs/1003', '/jobs/1003?pick=board&do=clear-cmos&do=remove%20monitor', '/jobs/1010', '/jobs/1010?do=remove%20cooler', '/jobs/1001',
  '/jobs/1009?check=look-plugs&checked=supply', '/jobs/1008?a=7&b=8', '/jobs/1008?a=7', '/jobs/1008?pick=stick-1', '/jobs/1008?do=move%20shelf-stick%20memory.A1', '/jobs/1003/steps', '/jobs/1005/steps', '/jobs/1003/unit/stick-2', '/jobs/1003/log', '/jobs/1003/log/2', '/jobs/1003/close', '/jobs/1001/close',
  '/jobs/1003/report', '/jobs/1010/report', '/jobs/1003/part',
  '/codes', '/codes?q=5+short', '/codes?q=nothing+like+it', '/codes/aptio', '/codes/aptio/97', '/codes/own', '/listen', '/listen?job=1003',
];
