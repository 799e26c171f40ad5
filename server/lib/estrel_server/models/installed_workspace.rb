# frozen_string_literal: true

module EstrelServer
  # A workspace beside the first one. It is made and removed in the background, see {Workspaces::Keeper}; archived, it
  # keeps everything, and nobody reaches it and nothing works in it.
  class InstalledWorkspace < InstallationRecord
    STATES = ["being made", "open", "archived", "being removed"].freeze
    # Seconds for which a process remembers which there are.
    FRESH_FOR = 1.0
    # Shares with the database server: each has about a hundred tables.
    MOST = 50
    LOCK = Mutex.new
    private_constant :LOCK

    has_many :memberships, dependent: :delete_all

    before_validation { self.title = title.to_s.strip.presence || name.to_s }

    validates :name, format: { with: Workspaces::NAME, message: Workspaces::NAMES },
                     exclusion: { in: [Workspaces::FIRST], message: "is the first workspace's" },
                     uniqueness: { message: "is taken already" }
    validates :title, length: { maximum: 100 }
    validates :state, inclusion: { in: STATES }
    validate(on: :create) { errors.add(:base, "there are #{MOST} workspaces already") if self.class.count >= MOST }

    scope :open, -> { where(state: "open") }

    # As of a second ago.
    #
    # @param name [String]
    # @return [InstalledWorkspace, nil] where it is open
    def self.known(name)
      LOCK.synchronize do
        now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
        unless @read_at && now - @read_at < FRESH_FOR
          @known = connection_pool.with_connection { open.index_by(&:name) }
          @read_at = now
        end
        @known[name]
      end
    end

    # Nothing is remembered any more.
    #
    # @return [void]
    def self.forget = LOCK.synchronize { @read_at = nil }

    # @return [Workspaces::Place]
    def place = Workspaces.place(name, id)
  end
end
