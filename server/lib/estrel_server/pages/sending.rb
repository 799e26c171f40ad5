# frozen_string_literal: true

module EstrelServer
  module Pages
    # Writes a page to a file and sends it to its destination: into a folder, or as one signed message to a webhook. It
    # shows what its owner may see.
    class Sending
      # Raised where the destination may take it the next time.
      class Later < Error; end

      # @param run [PageRun]
      def initialize(run)
        @run = run
        @page = run.page
      end

      # @return [void]
      # @raise [Later] to be tried again
      def run
        return unless @run.under_way?

        @run.update!(state: "running")
        Database::Lease.new("page run #{@run.id}").hold { send_page }
      rescue Database::Lease::Busy
        raise Later, "another worker is at it"
      rescue Later
        raise
      rescue Error, Estrel::Error, Polars::Error, SystemCallError, Pushing::Connection::Impossible => e
        @run.finish("failed", error: e.message[0, 500])
      end

      private

      def send_page
        destination = @page.destination or raise Error, "this report has no destination"
        raise Error, "the destination of this page has been deleted" if destination.deleted_at
        raise Error, "the page has been deleted" if @page.deleted_at

        name = Document.file_name(@page, @run.as_of)
        destination.webhook? ? post(destination, name) : write(destination, name)
        @run.finish("done", file_name: name)
      end

      def html
        owner = @page.owner
        raise Error, "the owner of this report no longer has an account; someone else has to save " \
                     "it" if owner.nil? || owner.disabled_at

        Access::Current.set(bearer: Access::Bearer.new(owner)) do
          Document.new(@page, @run.as_of, Reading.new(@page, @run.as_of, limited: false).shown).to_html
        end
      end

      # It has its name only once it is whole.
      def write(destination, name)
        FileUtils.mkdir_p(destination.directory)
        part = File.join(destination.directory, "#{name}.part")
        File.write(part, html)
        File.open(part, &:fsync)
        File.rename(part, File.join(destination.directory, name))
      end

      def post(destination, name)
        body = JSON.generate({ type: "page.sent", timestamp: @run.created_at.iso8601(6),
                               data: { page: @page.name, as_of: @run.as_of.iso8601, file_name: name, html: html } })
        connection = Pushing::Connection.new(destination)
        answer = connection.post("page_#{@run.token}", body)
        return if answer.verdict == :taken
        raise Later, answer.to_s if answer.verdict == :again

        raise Error, answer.to_s
      rescue Pushing::Connection::NoAnswer => e
        raise Later, e.message
      ensure
        connection&.close
      end
    end
  end
end
