"""How messages travel: WebSocket, and MQTT by way of a broker."""
