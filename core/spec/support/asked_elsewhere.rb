# frozen_string_literal: true

# Asks three parts as another process would: of the ledger's files, by what has travelled as bytes.
class AskedElsewhere
  PARTS = 3

  def initialize(ledger)
    @opened = Estrel::Ledger.new(ledger.directory, shelves: true)
  end

  def ask(analysis, found)
    reference = analysis.workspace.ledger.reference
    Array.new(PARTS) do |part|
      asked, before = travelled([analysis, found])
      workspace = asked.workspace.put_to(@opened.referred(reference), parts: PARTS)
      travelled(asked.asked_of(workspace.parts[part], before))
    end
  end

  private

  def travelled(object) = Estrel::Transit.load(Estrel::Transit.dump(object))
end
