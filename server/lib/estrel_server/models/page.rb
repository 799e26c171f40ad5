# frozen_string_literal: true

module EstrelServer
  # A page of a notebook: headings, text, saved analyses and figures of audiences, one below the other, see
  # {Pages::Block}. Its figures are those of the data there is when it is read; by a schedule it is also written to a
  # file and sent to a destination. Deleting hides it, so that it can be brought back.
  class Page < Record
    include Named
    include Owned

    attribute :blocks, :json
    attribute :schedule, :json
    belongs_to :destination, optional: true
    has_many :comments, -> { order(:id) }, class_name: "EstrelServer::PageComment", inverse_of: :page,
                                           dependent: :delete_all
    has_many :runs, -> { order(id: :desc) }, class_name: "EstrelServer::PageRun", inverse_of: :page,
                                             dependent: :delete_all

    scope :kept, -> { visible.where(deleted_at: nil) }

    validate :blocks_are_there
    validate :schedule_can_be_kept

    # @return [Array<Pages::Block>]
    def parts = blocks.map { |block| Pages::Block.new(block) }

    # @return [Estrel::Exports::Schedule, nil]
    def times = schedule && Estrel::Exports::Schedule.new(schedule)

    # Sets when the page is sent by itself next; earlier times are forgotten.
    #
    # @return [void]
    def schedule_next
      now = Process.clock_gettime(Process::CLOCK_REALTIME, :microsecond)
      at = times&.next_after(now, Workspace.current.calendar)
      update_columns(next_run_at: at && Time.at(at / 1_000_000).utc)
    end

    private

    # Whatever it shows has to be there for whoever writes it.
    def blocks_are_there
      parts.each_with_index do |part, index|
        missing = part.missing or next
        errors.add(:base, "Block #{index + 1} shows #{missing} that has been deleted; remove the block")
      end
    end

    def schedule_can_be_kept
      return if schedule.nil?

      errors.add(:base, "Choose a destination that the page is sent to") if destination.nil?
      errors.add(:base, "Reports can be sent at a set time only, not after each refresh") if times.refresh?
    rescue Estrel::Exports::Invalid => e
      errors.add(:base, Estrel::English.sentence(e.message))
    end
  end
end
