database: bin/estrel database
web: bin/estrel serve
collector: bin/estrel collect
ledger: bin/estrel ledger follow
imports: bin/estrel work imports
exports: bin/estrel work exports
schedule: bin/estrel schedule
stand-in: bin/estrel stand-in
