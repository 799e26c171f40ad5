# frozen_string_literal: true

# Asks three parts as other processes would: of the ledger's files, by what has travelled as bytes. Where the ledger lies
# in three pieces, each has one of them only.
class AskedElsewhere
  PARTS = 3

  def initialize(ledger)
    @opened = Array.new(PARTS) { |part| Estrel::Ledger.new(ledger.directory, shelves: true, held: Estrel::Ledger::Held.new([part], PARTS)) }
  end

  def ask(analysis, found)
    reference = analysis.workspace.ledger.reference
    Array.new(PARTS) do |part|
      asked, before = travelled([analysis, found])
      workspace = asked.workspace.put_to(@opened[part].referred(reference), parts: PARTS)
      travelled(asked.asked_of(workspace.part(part), before))
    end
  end

  private

  def travelled(object) = Estrel::Transit.load(Estrel::Transit.dump(object))
end
