# frozen_string_literal: true

module EstrelServer
  # A named, versioned lifecycle policy; the rules are {Estrel::Lifecycle::Policy}. One of them is in force: it is meant
  # wherever no policy is named. Deleting hides it, so that what refers to it can still be read.
  class LifecyclePolicy < Record
    include Owned

    DEFAULT_NAME = "Default"
    DEFAULT_DAYS = { "new_for" => 30, "active_within" => 30, "churned_after" => 90 }.freeze

    has_many :versions, -> { order(:number) }, class_name: "EstrelServer::LifecyclePolicyVersion",
                                               inverse_of: :lifecycle_policy, dependent: :restrict_with_exception

    scope :kept, -> { visible.where(deleted_at: nil) }

    validates :name, presence: true, length: { maximum: 255 }
    validate :name_is_free

    # The policy in force, or, before anybody has chosen one, an unsaved first one in which every event type counts but
    # those that are marked as no activity.
    #
    # @return [LifecyclePolicy]
    def self.current
      where(deleted_at: nil).find_by(in_force: true) || new(name: DEFAULT_NAME, in_force: true)
    end

    # @return [Hash] what counts before anybody has chosen: JSON of {Estrel::Lifecycle::Policy#to_h}
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
    # @param rules [Estrel::Lifecycle::Policy]
    # @param author [String]
    # @return [void]
    def keep(rules, author: "")
      save! if new_record?
      return if versions.last && versions.last.rules == rules.to_h

      first = versions.none?
      versions.create!(number: (versions.last&.number || 0) + 1, rules: rules.to_h, author: author)
      begin_private if first && !in_force
      save!
      touch
      References.check(self)
    end

    # The one in force is everybody's.
    #
    # @param private [Boolean]
    # @return [void]
    # @raise [Error]
    def share(private)
      raise Error, "the policy in force is seen by all" if private && in_force

      super
    end

    private

    def name_is_free
      errors.add(:name, "is that of another policy") if self.class.kept.where(name: name).where.not(id: id).exists?
    end
  end
end
