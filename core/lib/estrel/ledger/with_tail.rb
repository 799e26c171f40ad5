# frozen_string_literal: true

module Estrel
  class Ledger
    # A large ledger that was written some time ago, and a small one with the whole histories of the people about whom
    # something has come since: read as the one ledger that both make up. What is remembered of the large one stays
    # good from one refresh to the next, so whoever can asks both apart:
    #
    # - what is told of every person by themselves is told by the ledger the person lies in, see {#join};
    # - what adds up over people is that of the base, less that of {#outdated}, plus that of the tail, see
    #   {Analyses::Renewal}.
    #
    # What can be asked in neither way reads frames of both, put together here.
    class WithTail
      include Readable

      # @return [Readable] the rows of {#touched} in it are out of date
      attr_reader :base
      # @return [Readable] of the touched people only, those who are new among them
      attr_reader :tail
      # @return [Polars::Series] sorted profile ids; somebody who has become part of another is in neither
      attr_reader :touched
      # @return [ResultCache, ResultCache::Scope]
      attr_reader :cache

      # @param base [Readable]
      # @param tail [Readable] with the same columns and types
      # @param touched [Polars::Series] sorted profile ids
      # @param cache [ResultCache, ResultCache::Scope]
      # @param people [Integer, nil] how many there are, where that is known without looking
      def initialize(base, tail, touched, cache = ResultCache.new, people: nil)
        @base = base
        @tail = tail
        @touched = touched
        @cache = cache
        @people = people
        @mutex = Monitor.new
        @made = {}
      end

      # @return [Catalogue]
      def catalogue = tail.catalogue

      # @return [Calendar]
      def calendar = tail.calendar

      # @return [Hash] of both together, see {Generation#facts}
      def facts = tail.facts

      # @return [String]
      def directory = tail.directory

      # @return [String] name of its manifest
      def manifest_name = tail.manifest_name

      # @return [Integer]
      def number = tail.number

      # @return [Integer] see {Generation#visit_gap}
      def visit_gap = base.visit_gap

      # @return [nil] it is another one after every refresh
      def shelf = nil

      # @return [Hash{String => Array(Integer, Integer)}] see {Generation#written}
      def written = base.written.merge(tail.written)

      # @return [Array(String, Array)] see {Generation#reference}
      def reference = tail.reference

      # @return [Integer] how many profiles there are
      def base_size = @people || ids.len

      # @return [Polars::Series] profile ids of both, sorted
      def ids = made(:ids) { join(base.ids, tail.ids) }

      # @return [Polars::DataFrame] see {Generation#profiles}
      def profiles = together(:profiles)

      # @return [Polars::DataFrame] see {Generation#attribute_history}
      def attribute_history = together(:attribute_history)

      # @return [Polars::DataFrame] see {Generation#reach}
      def reach = together(:reach)

      # @return [Polars::DataFrame] see {Generation#origins}
      def origins = together(:origins)

      # @return [Polars::DataFrame] see {Generation#renamed}
      def renamed = made(:renamed) { Polars.concat([base.renamed, tail.renamed]) }

      # @return [Polars::DataFrame] see {Generation#events}
      def events(type) = together(:events, type)

      # @return [Polars::LazyFrame] see {Readable#scan}
      def scan(type)
        others = Polars.col("profile_id").is_in(Polars.lit(touched)).is_not
        Polars.concat([base.scan(type).filter(others), tail.scan(type)])
      end

      # @return [Integer] see {Readable#people_of}
      def people_of(type) = base.people_of(type) - outdated.people_of(type) + tail.people_of(type)

      # @return [Polars::DataFrame] see {Generation#spine}
      def spine = together(:spine)

      # @return [Array(Integer, Integer), nil] see {Readable#bounds}
      def bounds
        found = [*base.bounds, *tail.bounds]
        found.minmax if found.any?
      end

      # @return [Polars::Series, nil] see {Generation#current_attribute}
      def current_attribute(name)
        of_base = base.current_attribute(name) or return
        join(of_base, tail.current_attribute(name))
      end

      # Puts together what was told of everybody in either ledger.
      #
      # @param of_base [Polars::Series, Polars::DataFrame] a row for each of the base's profiles
      # @param of_tail [Polars::Series, Polars::DataFrame] likewise of the tail's
      # @return [Polars::Series, Polars::DataFrame] a row for each profile, in the order of {#ids}
      def join(of_base, of_tail)
        if of_base.is_a?(Polars::Series)
          return join(*[of_base, of_tail].map { |told| told.alias(of_base.name).to_frame }).to_series
        end

        Polars.concat([of_base, of_tail]).select([Polars.all.gather(places)])
      end

      # @return [Picked] what the base says of the touched people
      def outdated = made(:outdated) { base.picked(touched) }

      # As many as the base has, so that what is remembered of its parts stays good.
      def part_count(...) = base.part_count(...)

      # @return [Integer] see {Generation#parts_needed}
      def parts_needed = base.parts_needed

      # @return [Array<Readable>] those of the base
      def pieces = base.pieces

      # @return [Readable] see {Generation#part}
      def part(count, index)
        count == 1 ? self : made([:part, count, index]) { slice(base.part(count, index).range) }
      end

      # @return [Range<Integer>, nil] see {Readable#range}
      def range = base.range

      # @param range [Range<Integer>] of profile ids, its end included
      # @return [WithTail]
      def slice(range)
        theirs = touched.filter((touched >= range.begin) & (touched <= range.end))
        WithTail.new(base.slice(range), tail.slice(range), theirs, cache.within([:profiles, range]))
      end

      # @param ids [Polars::Series] sorted profile ids
      # @return [Readable]
      def picked(ids)
        fresh = ids.is_in(touched)
        return base.picked(ids) unless fresh.any
        return tail.picked(ids) if fresh.all

        others = ids.filter(fresh.to_frame.select([Polars.all.is_not]).to_series)
        theirs = ids.filter(fresh)
        WithTail.new(base.picked(others), tail.picked(theirs), theirs)
      end

      # @param date [Date]
      # @return [WithTail] of {ReceivedBy}
      def received_by(date)
        kept(:received_by, date) do
          WithTail.new(base.received_by(date), tail.received_by(date), touched, cache.within([:received_by, date]),
                       people: @people)
        end
      end

      # @param given [Array] see {Generation#without_personal}
      # @return [WithTail]
      def without_personal(*given)
        kept(:without_personal, given) do
          WithTail.new(base.without_personal(*given), tail.without_personal(*given), touched, cache, people: @people)
        end
      end

      # @return [String]
      def inspect = "#<#{self.class} of #{touched.len} people>"

      # What a cache takes it to weigh, see {Part#estimated_size}.
      #
      # @return [Integer] bytes
      def estimated_size = base_size * 500

      private

      def made(name) = @mutex.synchronize { @made[name] ||= yield }

      # The one asked for last is kept.
      def kept(name, key)
        @mutex.synchronize do
          @made[name] = [key, yield] unless @made[name]&.first == key
          @made[name].last
        end
      end

      def together(*name)
        cache.fetch([:together, *name]) { Splice.replace(base.public_send(*name), tail.public_send(*name), touched) }
      end

      # Where each profile's row lies when those of the tail stand below those of the base.
      def places
        made(:places) do
          both = Polars.concat([base.ids, tail.ids]).alias("id").to_frame.with_row_index(name: "at")
          outdated = (Polars.col("at") < base.ids.len) & Polars.col("id").is_in(Polars.lit(touched))
          both.lazy.filter(outdated.is_not).sort("id").select([Polars.col("at")]).collect["at"]
        end
      end
    end
  end
end
