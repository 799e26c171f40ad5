database: bin/estrel database
web: bin/estrel serve
imports: bin/estrel work imports
exports: bin/estrel work exports
