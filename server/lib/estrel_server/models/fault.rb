# frozen_string_literal: true

module EstrelServer
  # Something that runs in the background and cannot do its work: what, since when, and how often it was tried. Gone
  # when it works again.
  class Fault < Record
    # @param process [String] such as "ledger"
    # @param step [String] such as "refresh"
    # @param error [Exception, String]
    # @return [void]
    def self.keep(process, step, error)
      ours = !error.is_a?(Exception) || error.is_a?(Error) || error.is_a?(Estrel::Error)
      message = ours ? error.to_s : "#{error.class.name.demodulize}: #{error.message}"
      now = Time.now.utc.strftime("%Y-%m-%d %H:%M:%S.%6N")
      row = [process, step[0, 255], message.dup.force_encoding(Encoding::UTF_8).scrub.delete("\0")[0, 1000], 1, now,
             now]
      Importing::SQL.insert("faults", "process, step, message, count, since, last_at", [row],
                            "ON DUPLICATE KEY UPDATE message = VALUES(message), count = count + 1, " \
                            "last_at = VALUES(last_at)")
    end

    # Forgets what has not happened again for a day: nobody tries it any more.
    #
    # @return [void]
    def self.clear_old = where(last_at: ...(Time.now.utc - 86_400)).delete_all

    # @param process [String]
    # @param step [String]
    # @return [void]
    def self.settle(process, step) = where(process: process, step: step).delete_all
  end
end
