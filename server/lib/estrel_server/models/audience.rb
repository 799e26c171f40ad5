# frozen_string_literal: true

module EstrelServer
  # A named, versioned definition. Deleting hides it, so that it can be brought back.
  class Audience < Record
    include Named
    include Owned

    has_many :versions, -> { order(:number) }, class_name: "EstrelServer::AudienceVersion", inverse_of: :audience,
                                               dependent: :restrict_with_exception

    scope :kept, -> { visible.where(deleted_at: nil) }

    validates :folder, length: { maximum: 100 }
    validates :note, length: { maximum: 2000 }

    # @return [AudienceVersion]
    def current = versions.last

    # Keeps a definition as the newest version, unless it is the same as the newest one.
    #
    # @param definition [Estrel::Audience::Definition]
    # @param catalogue [Estrel::Catalogue]
    # @param author [String] who says so
    # @return [AudienceVersion]
    def keep(definition, catalogue, author: "")
      return current if current&.digest == definition.digest

      first = versions.none?
      sentence = Estrel::Audience::Sentence.new(definition, catalogue).to_s
      version = versions.create!(number: (current&.number || 0) + 1, definition: definition.to_h, author: author,
                                 digest: definition.digest, sentence: sentence)
      begin_private if first
      save! if changed?
      References.check(self)
      version
    end
  end
end
