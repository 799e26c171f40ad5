# frozen_string_literal: true

module Estrel
  class Lifecycle
    # By how many people each device was used, which adds up over people, and can be taken away again. It remembers
    # which have ever been used by several.
    class Devices
      include Analyses::Sum::Reversible

      # @param rows [Polars::DataFrame] `profile_id` and `device`, of which many that follow each other are alike
      # @return [Devices]
      def self.of(rows)
        fresh = %w[profile_id device].map { |name| Polars.col(name).ne_missing(Polars.col(name).shift(1)) }.reduce(:|)
        pairs = rows.lazy.filter(fresh).select(%w[profile_id device]).collect
        profile = Polars.col("profile_id")
        alone = pairs.lazy.group_by("device").agg([(profile.min == profile.max).alias("alone")]).collect
        of_several = alone.filter(Polars.col("alone").is_not)["device"]
        new(of_one(alone.filter(Polars.col("alone"))["device"]),
            counted(pairs.filter(Polars.col("device").is_in(of_several)).unique))
      end

      # @param devices [Polars::Series] that one person each used
      # @return [Polars::DataFrame] as a part of {#initialize}
      def self.of_one(devices)
        one = %w[people most].map { |name| Polars.lit(1).cast(Polars::Int32).alias(name) }
        devices.alias("device").to_frame.with_columns(one)
      end

      def self.counted(pairs)
        people = Polars.len.cast(Polars::Int32)
        pairs.group_by("device").agg([people.alias("people"), people.alias("most")])
      end
      private_class_method :counted

      # @param frames [Array<Polars::DataFrame>] `device`, `people` and `most`, as many as there have ever been; to be
      #   added up
      def initialize(*frames)
        @frames = frames
      end

      # @param other [Devices] of other people
      # @return [Devices] of both
      def +(other) = Devices.new(*frames, *other.frames)

      # @param other [Devices] of some of these people
      # @return [Devices] of the others
      def -(other)
        less = other.frames.map { |frame| frame.with_columns([Polars.col("people") * -1]) }
        Devices.new(Devices.new(frame, *less).frame)
      end

      # @return [Polars::Series] those that several people use, or used before some were taken away, in order
      def shared = frame.filter(Polars.col("most") > 1)["device"].sort

      # @return [Polars::Series] all
      def all = frame["device"]

      # @return [Integer] bytes
      def estimated_size = frames.sum(&:estimated_size)

      # Nearly all have one person only, which goes without saying.
      def marshal_dump
        one = %w[people most].map { |name| Polars.col(name) == 1 }.reduce(:&)
        [frame.filter(one)["device"], frame.filter(one.is_not)]
      end

      def marshal_load((alone, others))
        @frames = [Devices.of_one(alone), others]
      end

      protected

      attr_reader :frames

      def frame
        return frames.first if frames.one?

        people, most = %w[people most].map { |name| Polars.col(name) }
        added = Polars.concat(frames).lazy.group_by("device").agg([people.sum, most.max])
                      .with_columns([Polars.max_horizontal([most, people]).alias("most")]).collect
        (@frames = [added]).first
      end
    end
  end
end
