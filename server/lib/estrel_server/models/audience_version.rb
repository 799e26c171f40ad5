# frozen_string_literal: true

module EstrelServer
  # One state of an audience's definition; never changes.
  class AudienceVersion < Record
    attribute :definition, :json
    belongs_to :audience

    validates :author, length: { maximum: 100 }

    # @return [String] the sentence with what everything is called now; as it was kept where it cannot be read any more
    def said
      generation = EstrelServer.ledger.current
      generation.cache.fetch([:said, id]) do
        read = Answers::Asking.definition(definition, generation.catalogue)
        Estrel::Audience::Sentence.new(read, generation.catalogue).to_s
      end
    rescue Estrel::Audience::Invalid, Estrel::Ledger::Missing
      sentence
    end
  end
end
