# frozen_string_literal: true

module EstrelServer
  # What processes tell of their work: JSON objects, one a line, on standard error. While a request is answered or a job
  # done, each names it, so that one can be followed through all processes. Holds nothing that tells who anybody is:
  # no addresses, no bodies, no values, and of what databases and programs say nothing that stands in quotes or looks
  # like an e-mail address.
  module Log
    # Facts of a line that are added to every line of a thread.
    KEY = :estrel_log
    FRAMES = 12
    # linear: each alternative ends at the next sign of its own
    QUOTED = /'[^']*'|"[^"]*"|“[^”]*”|`[^`]*`|[^\s@]+@[^\s@]+/
    private_constant :KEY, :FRAMES, :QUOTED

    class << self
      # @return [IO] where lines go
      attr_writer :output

      # @return [String] what this process is
      attr_accessor :process

      # @return [Boolean] whether what goes as it should is told, too
      attr_accessor :everything
    end
    self.process = "command"
    self.everything = false # as for commands, which tell whoever typed them

    module_function

    # @param event [String] what has happened
    # @param facts [Hash{Symbol => Object}] plain JSON
    # @return [void]
    def info(event, **facts) = (write("info", event, facts) if everything)

    # @param event [String]
    # @param facts [Hash{Symbol => Object}]
    # @return [void]
    def warning(event, **facts) = write("warning", event, facts)

    # @param event [String]
    # @param error [Exception]
    # @param facts [Hash{Symbol => Object}]
    # @return [void]
    def error(event, error, **facts)
      write("error", event, **facts, error: error.class.name, said: without_values(error.message),
                                     at: (error.backtrace || []).first(FRAMES))
    end

    # Names the request or job in every line of this thread until the block ends.
    #
    # @param facts [Hash{Symbol => Object}]
    # @yieldreturn [Object]
    # @return [Object] the block's result
    def with(**facts)
      before = Thread.current[KEY]
      Thread.current[KEY] = { **before.to_h, **facts }
      yield
    ensure
      Thread.current[KEY] = before
    end

    # @return [Hash{Symbol => Object}] what is named in every line of this thread
    def context = Thread.current[KEY].to_h

    # @param text [String]
    # @return [String]
    def without_values(text) = text.to_s.scrub.lines.first.to_s.strip.gsub(QUOTED, "…")[0, 500]

    # Adds the request to a statement of Active Record; the database's own logs show it.
    IN_SQL = lambda do |sql, _connection|
      request = context[:request]
      request ? "#{sql} /* request #{request} */" : sql
    end

    def write(level, event, facts)
      place = Workspaces.current
      line = { time: Time.now.utc.iso8601(3), level: level, event: event, process: process, pid: Process.pid,
               **(place.first? ? {} : { workspace: place.name }), **context, **facts }
      (@output || $stderr).write("#{JSON.generate(line)}\n")
    rescue IOError, SystemCallError
      nil # nobody reads it, or there is no room for it; the work goes on
    end
    private_class_method :write
  end
end
