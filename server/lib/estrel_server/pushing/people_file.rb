# frozen_string_literal: true

module EstrelServer
  module Pushing
    # People of a run as they are sent to a destination, one a line: the profile's number, a tab, and a JSON object
    # with `key`, the same whenever this person is sent in this run; `subject`, as which events about the person can
    # be sent back to the collector; `fields`, the export's columns.
    #
    # Batches are parts of the file, so every attempt sends the same bytes, and a run goes on without asking anew.
    class PeopleFile
      # @param run [ExportRun]
      # @param name [String]
      def initialize(run, name = "people-of-run-#{run.id}.jsonl")
        @run = run
        @name = name
      end

      # @return [String]
      attr_reader :name

      # @return [String]
      def path = @run.files.beside(name)

      # @param run [ExportRun]
      # @param profile_id [Integer]
      # @return [String] 32 hexadecimal digits
      def self.key(run, profile_id) = Digest::SHA256.hexdigest("#{run.token}:#{profile_id}")[0, 32]

      # @param delivery [Estrel::Exports::Delivery]
      # @param batch_size [Integer]
      # @return [Array<Hash>] batches: `first_byte`, `bytes` and `row_count`
      def write(delivery, batch_size)
        names = delivery.headers
        people = delivery.recipients.rows.lazy.zip(delivery.parts.flat_map(&:rows))
        told = people.map do |(profile, subject), row|
          [profile, json({ key: PeopleFile.key(@run, profile), subject: subject, fields: names.zip(row).to_h })]
        end
        write_people(told, batch_size)
      end

      # Some people of other files once more.
      #
      # @param batches [Enumerable<PushBatch>]
      # @param profiles [Set<Integer>] those who are sent again
      # @param batch_size [Integer]
      # @return [Array<Hash>] as from {#write}
      def write_again(batches, profiles, batch_size)
        people = batches.lazy.flat_map { |batch| PeopleFile.new(@run, batch.file_name).people(batch) }
        write_people(people.select { |person| profiles.include?(person.first) }, batch_size)
      end

      # @param batch [PushBatch] of this file
      # @return [Array<Array(Integer, String)>] profile and JSON object
      # @raise [Error] where the file is gone
      def people(batch)
        part = File.read(path, batch.bytes, batch.first_byte, encoding: Encoding::UTF_8)
        part.each_line(chomp: true).map do |line|
          profile, json = line.split("\t", 2)
          [Integer(profile, 10), json]
        end
      rescue Errno::ENOENT
        raise Error, "the remaining people are no longer stored; start a new run"
      end

      private

      def json(person) = JSON.generate(person)

      def write_people(people, batch_size)
        batches = []
        @run.files.whole(path) do |part|
          File.open(part, "wb") do |file|
            people.each_slice(batch_size) do |slice|
              first = file.pos
              slice.each { |profile, json| file.write(profile.to_s, "\t", json, "\n") }
              batches << { first_byte: first, bytes: file.pos - first, row_count: slice.size }
            end
          end
        end
        batches
      end
    end
  end
end
