# frozen_string_literal: true

module EstrelServer
  # Where exports are exported to, besides being there to download: a folder under the outbox, from where another
  # program takes the files; or a webhook, an HTTPS address that receives the people in batches.
  #
  # The secret of a webhook is encrypted in the database and shown to nobody.
  class Destination < Record
    include Named

    KINDS = %w[folder webhook].freeze
    FOLDER = /\A[A-Za-z0-9][A-Za-z0-9._-]{0,99}\z/
    # What a webhook can be set to, and the default where there is one.
    WEBHOOK = { "url" => nil, "batch_size" => 500, "rows_per_second" => nil, "timeout" => 30,
                "notices" => false }.freeze
    RANGES = { "batch_size" => 1..5000, "rows_per_second" => 1..100_000, "timeout" => 1..120 }.freeze

    attribute :settings, :json
    encrypts :secret
    has_many :exports, class_name: "EstrelServer::Export", dependent: :restrict_with_exception

    scope :kept, -> { where(deleted_at: nil) }

    before_validation :complete

    validates :kind, inclusion: { in: KINDS }
    validate :folder_is_plain, if: -> { kind == "folder" }
    validate :webhook_can_be_used, if: -> { kind == "webhook" }
    validate :name_is_free

    # @return [Boolean]
    def webhook? = kind == "webhook"

    # @return [Boolean] whether it is told when runs have ended and of alerts
    def notified? = webhook? && settings["notices"] == true

    # @return [String] the folder's path
    def directory = File.join(EstrelServer.settings.outbox_directory, settings.fetch("folder"))

    private

    def complete
      self.settings = WEBHOOK.merge(settings.compact) if webhook? && settings.is_a?(Hash)
    end

    def folder_is_plain
      return if settings.is_a?(Hash) && FOLDER.match?(settings["folder"].to_s)

      errors.add(:folder, "may have letters, digits, points, dashes and underscores only")
    end

    def webhook_can_be_used
      return errors.add(:settings, "are missing") unless settings.is_a?(Hash)

      (settings.keys - WEBHOOK.keys).each { |name| errors.add(:base, "A webhook has no setting \"#{name}\"") }
      RANGES.each { |name, range| range_holds(name, range) }
      errors.add(:base, "Notices must be true or false") unless [true, false].include?(settings["notices"])
      Pushing::AddressGuard.new.parse(settings["url"])
      Pushing::Signature.new(secret)
    rescue Pushing::AddressGuard::Refused, Pushing::Signature::Invalid => e
      errors.add(:base, e.message)
    end

    def range_holds(name, range)
      value = settings[name]
      return if value.nil? ? WEBHOOK[name].nil? : value.is_a?(Integer) && range.cover?(value)

      errors.add(:base, "#{Estrel::English.field(name)} must be a whole number from #{range.min} to #{range.max}")
    end

    def name_is_free
      return unless self.class.kept.where(name: name).where.not(id: id).exists?

      errors.add(:name, "is taken by another destination")
    end
  end
end
