# frozen_string_literal: true

module Estrel
  module Audience
    class Condition
      class Order < Condition
        # Reads the JSON of an order.
        module Parsing
          def read(body, place, reading, _kind)
            steps = body["steps"].each_with_index.map do |row, index|
              read_step(row, index, "#{place}.steps[#{index}]", reading)
            end
            window = reading.fields.window(body["window"], "#{place}.window")
            absence = body["then_not"] && read_absence(body["then_not"], "#{place}.then_not", reading)
            return if window.nil? || steps.any?(&:nil?) || (body["then_not"] && absence.nil?)

            new(steps, window, absence: absence, within: body["within"])
          end

          private

          def read_step(row, index, place, reading)
            among = row["among"] && (read_among(row, place, reading) or return)
            link = Link.new(row, among: among)
            fault = unfit(row, index, link)
            return reading.fault(place, fault) if fault

            window = row["window"] && (reading.fields.window(row["window"], "#{place}.window") or return)
            selection = reading.selections.read(row, place)
            selection && Step.new(selection, link, row["first"] == true, window)
          end

          def unfit(row, index, link)
            return "the first step cannot follow another" if index.zero? && link.to_h.any?
            return "only the first step can be the first of its kind" if row["first"] && index.positive?

            link.contradiction
          end

          def read_among(row, place, reading)
            unless row["next"] == true
              return reading.fault("#{place}.among",
                                   "“among selected events” works only with the next event")
            end

            reading.selections.read({ "events" => row["among"] }, "#{place}.among")
          end

          def read_absence(row, place, reading)
            selection = reading.selections.read(row, place)
            selection && Absence.new(selection, Link.micros(row["within"]), row["within"])
          end
        end
      end
    end
  end
end
