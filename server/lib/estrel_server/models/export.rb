# frozen_string_literal: true

module EstrelServer
  # The export to hand an audience over: which version of it, where to, and by which rules, see
  # {Estrel::Exports::Settings}. Deleting hides it, so that its runs can still be read.
  class Export < Record
    include Named
    include Owned

    attribute :rules, :json
    belongs_to :audience
    belongs_to :pinned_version, class_name: "EstrelServer::AudienceVersion", optional: true
    belongs_to :destination, optional: true
    has_many :runs, -> { order(id: :desc) }, class_name: "EstrelServer::ExportRun", inverse_of: :export,
                                             dependent: :restrict_with_exception

    before_create :begin_private

    scope :kept, -> { visible.where(deleted_at: nil) }

    validate :name_is_free

    # @return [AudienceVersion] that is exported: the one pinned, or else the newest
    def version = pinned_version || audience.current

    # @return [Estrel::Exports::Settings]
    def settings = Estrel::Exports::Settings.parse(rules)

    # Sets when the export is carried out by itself next; earlier times are forgotten.
    #
    # @return [void]
    def schedule_next
      now = Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond)
      at = settings.schedule&.next_after(now, Workspace.current.calendar)
      update_columns(next_run_at: at && Time.at(at / 1_000_000).utc)
    end

    # @param before [ExportRun, nil] only runs before this one count
    # @return [ExportRun, nil] the newest one that was carried out
    def last_done(before: nil) = (before ? runs.recorded.where(id: ...before.id) : runs.recorded).first

    private

    def name_is_free
      errors.add(:name, "is taken by another export") if self.class.kept.where(name: name).where.not(id: id).exists?
    end
  end
end
