# frozen_string_literal: true

module EstrelServer
  # Where exports are handed over to, besides being there to download: a folder under the outbox, from where another
  # program takes the files.
  class Destination < Record
    KINDS = %w[folder].freeze
    FOLDER = /\A[A-Za-z0-9][A-Za-z0-9._-]{0,99}\z/

    attribute :settings, :json
    has_many :exports, class_name: "EstrelServer::Export", dependent: :restrict_with_exception

    scope :kept, -> { where(deleted_at: nil) }

    validates :name, presence: true, length: { maximum: 255 }
    validates :kind, inclusion: { in: KINDS }
    validate :folder_is_plain, :name_is_free

    # @return [String] the folder's path
    def directory = File.join(EstrelServer.settings.outbox_directory, settings.fetch("folder"))

    private

    def folder_is_plain
      return if settings.is_a?(Hash) && FOLDER.match?(settings["folder"].to_s)

      errors.add(:folder, "is a plain name of letters, digits, points, dashes and underscores")
    end

    def name_is_free
      errors.add(:name, "is that of another destination") if self.class.kept.where(name: name).where.not(id: id).exists?
    end
  end
end
