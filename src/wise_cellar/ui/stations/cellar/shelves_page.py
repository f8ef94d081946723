from PyQt6.QtWidgets import QWidget


class ShelvesPage(QWidget):
    def __init__(self, session):
        super().__init__()

    settled = True

    def refresh(self):
        pass

    def close_work(self):
        pass
