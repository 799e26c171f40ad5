# frozen_string_literal: true

module EstrelServer
  # A named, versioned lifecycle rules; the rules are {Estrel::Lifecycle::RuleSet}. One of them is the default: it is
  # meant wherever no rule set is named. Deleting hides it, so that what refers to it can still be read.
  class RuleSet < Record
    include Named
    include Owned

    DEFAULT_NAME = "Default"
    DEFAULT_DAYS = { "new_for" => 30, "active_within" => 30, "churned_after" => 90 }.freeze

    has_many :versions, -> { order(:number) }, class_name: "EstrelServer::RuleSetVersion",
                                               inverse_of: :rule_set, dependent: :restrict_with_exception

    scope :kept, -> { visible.where(deleted_at: nil) }

    validate :name_is_free

    # The default rule set, or, before anybody has chosen one, an unsaved first one in which every event type counts but
    # those that are marked as no activity.
    #
    # @return [RuleSet]
    def self.current
      where(deleted_at: nil).find_by(default: true) || new(name: DEFAULT_NAME, default: true)
    end

    # @return [Hash] what counts before anybody has chosen: JSON of {Estrel::Lifecycle::RuleSet#to_h}
    def self.first_rules
      types = EventType.where(not_activity: false, merged_into_id: nil)
      { "activity" => types.order(:name).pluck(:name), **DEFAULT_DAYS }
    end

    # @param number [Integer, nil] of a version, nil for the newest
    # @return [Hash, nil] JSON of the rules; nil where there is no such version
    def rules_json(number = nil)
      return self.class.first_rules if new_record?

      (number ? versions.find { |version| version.number == number } : versions.last)&.rules
    end

    # Keeps rules as the newest version, unless they are the same as the newest one.
    #
    # @param rules [Estrel::Lifecycle::RuleSet]
    # @param author [String]
    # @return [void]
    def keep(rules, author: "")
      save! if new_record?
      return if versions.last && versions.last.rules == rules.to_h

      first = versions.none?
      versions.create!(number: (versions.last&.number || 0) + 1, rules: rules.to_h, author: author)
      begin_private if first && !default
      save!
      touch
      References.check(self)
    end

    # The default one is everybody's.
    #
    # @param private [Boolean]
    # @return [void]
    # @raise [Error]
    def share(private)
      raise Error, "the default rule set cannot be private" if private && default

      super
    end

    private

    def name_is_free
      errors.add(:name, "is taken by another rule set") if self.class.kept.where(name: name).where.not(id: id).exists?
    end
  end
end
