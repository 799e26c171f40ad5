# frozen_string_literal: true

module FerrowickPost
  # Whose turn it is in this process: taking what senders tell of goes before making up what becomes of it.
  module Turn
    # Seconds without a message after which senders are taken to be done.
    QUIET = 0.5
    # However many senders there are, nobody waits for longer than so many seconds.
    PATIENCE = 10

    module_function

    # Somebody tells of people.
    #
    # @return [void]
    def take = @taken_at = now

    # Waits until nobody tells of people, or has waited long enough.
    #
    # @return [void]
    def wait
      ends = now + PATIENCE
      sleep(QUIET / 5) while @taken_at && now - @taken_at < QUIET && now < ends
    end

    def now = Process.clock_gettime(Process::CLOCK_MONOTONIC)
    private_class_method :now
  end
end
