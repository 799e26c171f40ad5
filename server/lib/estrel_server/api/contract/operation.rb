# frozen_string_literal: true

module EstrelServer
  module API
    class Contract
      # One operation of the description, and the requests that keep to it.
      class Operation
        JSON_TYPE = "application/json"

        # @param contract [Contract]
        # @param pointer [Array<String>] to the operation
        def initialize(contract, pointer)
          @contract = contract
          @pointer = pointer
          described = contract.at(pointer)
          @parameters = (described["parameters"] || []).each_with_index.filter_map do |node, index|
            parameter = contract.followed(node)
            [parameter["name"], [parameter, schema_pointer(node, index)]] if parameter["in"] == "query"
          end.to_h
          @body = described.dig("requestBody", "content")
        end

        # @return [Boolean]
        def json_body? = !@body.nil? && @body.key?(JSON_TYPE)

        # @return [Boolean] whether it takes a form with files
        def form? = !@body.nil? && @body.key?("multipart/form-data")

        # @param text [String] of the address after the question mark
        # @return [Hash{String => String}] the parameters given; an empty one counts as left out
        # @raise [Broken]
        def query(text)
          given = pairs(text)
          missing = @parameters.each_value.map(&:first).select do |parameter|
            parameter["required"] && !given.key?(parameter["name"])
          end
          raise Broken, "#{missing.first["name"]} is missing" if missing.any?

          given.each { |name, value| check_parameter(name, value) }
        end

        # @param value [Object] parsed JSON
        # @return [Hash] the same
        # @raise [Broken]
        def body(value)
          raise Broken, "the request must be a JSON object" unless value.is_a?(Hash)

          check_scalars(value)
          errors = @contract.faults([*@pointer, "requestBody", "content", JSON_TYPE, "schema"], value)
          return value if errors.empty?

          first = errors.first
          raise Broken.new(
            [first[:place].empty? ? "the request" : first[:place], first[:message]].join(" "), errors
          )
        end

        private

        def schema_pointer(node, index)
          return [*node["$ref"].delete_prefix("#/").split("/"), "schema"] if node.key?("$ref")

          [*@pointer, "parameters", index.to_s, "schema"]
        end

        def pairs(text)
          URI.decode_www_form(text.to_s).each_with_object({}) do |(name, value), found|
            raise Broken, "there is no parameter #{name[0, 60].inspect} here" unless @parameters.key?(name)
            raise Broken, "#{name} is given more than once" if found.key?(name)

            found[name] = value unless value.empty?
          end
        rescue ArgumentError
          raise Broken, "the address is not encoded as it should be"
        end

        def check_parameter(name, text)
          parameter, pointer = @parameters.fetch(name)
          raise Broken, "#{name} contains a NUL character" if text.include?("\0")

          value = typed(text, @contract.followed(parameter["schema"]))
          fault = value.nil? ? nil : @contract.faults(pointer, value).first
          return unless value.nil? || fault

          schema = @contract.followed(parameter["schema"])
          message = fault ? fault[:message] : "#{Estrel::SchemaFault.type(schema)}, not #{text[0, 40].inspect}"
          raise Broken, "#{name} #{message}"
        end

        def typed(text, schema)
          case schema["type"]
          when "integer" then Integer(text, 10) if INTEGER.match?(text)
          when "number" then Float(text) if NUMBER.match?(text)
          when "boolean" then { "true" => true, "false" => false }[text]
          else text
          end
        end

        # What no field of any body can be, whatever its schema says.
        def check_scalars(value, place = "")
          case value
          when Hash
            value.each do |name, inner|
              if name.include?("\0")
                raise Broken,
                      "a name in #{place.empty? ? "the request" : place} contains a NUL character"
              end

              check_scalars(inner, place.empty? ? name : "#{place}.#{name}")
            end
          when Array then value.each_with_index { |inner, index| check_scalars(inner, "#{place}.#{index}") }
          when String then raise Broken, "#{place} contains a NUL character" if value.include?("\0")
          when Integer then raise Broken, "#{place} is too large a number" unless INTEGERS.cover?(value)
          when Float then raise Broken, "#{place} is no finite number" unless value.finite?
          end
        end
      end
    end
  end
end
