# frozen_string_literal: true

module EstrelServer
  module API
    # Problem details (RFC 9457), the one form of every refusal and failure over HTTP.
    module Problems
      TYPE = "application/problem+json"
      DISK_FULL = "the disk of the server is full, so nothing can be stored; free some space and try again"
      # How the database says that there is no room: the disk, a table or a temporary file is full.
      NO_ROOM = /Errcode: 28|No space left|is full|Disk full/
      private_constant :NO_ROOM

      module_function

      # @param status [Integer]
      # @param detail [String] what happened, and what to do about it
      # @param errors [Array<Hash>] faults with `place` and `message`
      # @return [Hash] plain JSON
      def to_h(status, detail, errors = [])
        { type: "about:blank", title: Rack::Utils::HTTP_STATUS_CODES.fetch(status), status: status,
          detail: Estrel::English.sentence(detail), errors: errors }
      end

      # @param error [Exception]
      # @return [Boolean] whether there was no room to write
      def disk_full?(error) = error.is_a?(Errno::ENOSPC) || NO_ROOM.match?(error.message)

      # @return [String] what is said of a fault of ours
      def unforeseen
        request = Log.context[:request]
        "something went wrong here; the log has the details#{" under #{request}" if request}"
      end

      # @return [Array] a Rack response
      def response(status, detail, **headers)
        [status, { "content-type" => TYPE, **headers.transform_keys(&:to_s) }, [JSON.generate(to_h(status, detail))]]
      end
    end
  end
end
